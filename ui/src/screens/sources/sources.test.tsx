import { describe, expect, it } from "vitest";
import { rechosen } from "./before";
import { unpairs } from "./settings";
import { size } from "./words";

describe("the mapping of columns", () => {
  const all = [
    { name: "Price", field: "cost" },
    { name: "Dealer", field: "" },
    { name: "Photo", field: "pictures" },
    { name: "Photo 2", field: "pictures" },
  ];
  it("moves a field over from the column that had it", () => {
    expect(rechosen(all, {}, "Dealer", "cost")).toEqual({ Dealer: "cost", Price: "" });
  });
  it("lets several columns be pictures, and one be let go", () => {
    expect(rechosen(all, {}, "Dealer", "pictures")).toEqual({ Dealer: "pictures" });
    expect(rechosen(all, { Dealer: "cost", Price: "" }, "Dealer", "")).toEqual({ Dealer: "", Price: "" });
  });
});

describe("settings", () => {
  it("reads words and what they mean, one line or many", () => {
    expect(unpairs("on the way = 0, plenty= some\ngone for good =ended,, nonsense")).toEqual({
      "on the way": "0",
      plenty: "some",
      "gone for good": "ended",
    });
    expect(unpairs("")).toEqual({});
  });
  it("writes sizes as people do", () => {
    expect(size(12)).toBe("1 KiB");
    expect(size(248_710)).toBe("243 KiB");
    expect(size(210_215_596)).toBe("200.5 MiB");
  });
});
