import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { toProblem } from "../api/client";
import { minor, money } from "./money";
import { MarginStrip, Opened, parts } from "./strip";
import { show } from "./testing";
import { day, shifted } from "./when";

describe("money", () => {
  it("writes minor units without a float in between", () => {
    expect(money(9007199254740991, "GBP")).toBe("90\u202f071\u202f992\u202f547\u202f409.91");
    expect(money(-5, "GBP")).toBe("−0.05");
    expect(money(1200, "JPY")).toBe("1\u202f200");
    expect(money(125, "KWD")).toBe("0.125");
  });
  it("reads what was typed, or says that it can't", () => {
    expect(minor("12.4", "GBP")).toBe(1240);
    expect(minor("0.07", "GBP")).toBe(7);
    expect(minor("12", "JPY")).toBe(12);
    for (const bad of ["", "12,5,0", "1.005", "abc", "-3", "1e3"]) expect(minor(bad, "GBP")).toBeNull();
    expect(minor("12.5", "JPY")).toBeNull();
  });
});

const figures = {
  price: 1999,
  landed: 900,
  outbound: 285,
  fees: 320,
  tax: 333,
  profit: 161,
  break_even: 1720,
  floor: 1850,
};

describe("margin strip", () => {
  it("splits a price into parts that make it", () => {
    expect(parts(figures).reduce((sum, p) => sum + p.amount, 0)).toBe(1999);
  });
  it("says the whole split in words", () => {
    show(<MarginStrip figures={figures} currency="GBP" />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
      "19.99 GBP: cost 9.00, delivery 2.85, fees 3.20, tax 3.33, left 1.61",
    );
  });
  it("hangs a loss below the line, past the price", () => {
    const { container } = show(<MarginStrip figures={{ ...figures, landed: 1200, profit: -139 }} currency="GBP" />);
    const loss = container.querySelector('rect[fill="url(#fill-loss)"]');
    expect(Number(loss?.getAttribute("y"))).toBeGreaterThan(0);
    expect(screen.getByRole("img").getAttribute("aria-label")).toContain("lost 1.39");
  });
  it("says so where there is no price", () => {
    show(<MarginStrip figures={{}} currency="GBP" />);
    expect(screen.getByText("no price")).toBeTruthy();
  });
  it("marks the line that made a part, by pointing and by keyboard", () => {
    const lines = [
      { kind: "price", name: "item price", amount: 1999, part: "" },
      { kind: "fee", name: "commission", amount: -320, part: "fees" },
      { kind: "cost", name: "landed cost", amount: -900, part: "cost" },
    ];
    show(<Opened figures={figures} currency="GBP" lines={lines} />);
    const row = screen.getByText("commission").closest("tr") as HTMLElement;
    const before = row.className;
    fireEvent.focus(screen.getByRole("button", { name: /fees/ }));
    expect(row.className).not.toBe(before);
    fireEvent.blur(screen.getByRole("button", { name: /fees/ }));
    expect(row.className).toBe(before);
    expect(screen.getByText("left for you")).toBeTruthy();
  });
});

describe("days", () => {
  it("go on and back over months and years, and stay where they are none", () => {
    expect(shifted("2026-02-28", 1)).toBe("2026-03-01");
    expect(shifted("2026-01-01", -1)).toBe("2025-12-31");
    for (const bad of ["", "2026-1-1", "2026-13-40", "soon"]) expect(shifted(bad, 1)).toBe(bad);
  });
});

describe("a day in words", () => {
  it("is one, or stays as it was typed so far", () => {
    expect(day("2026-04-01")).toBe("1 Apr 2026");
    for (const bad of ["", "2026-0", "soon"]) expect(day(bad)).toBe(bad);
  });
});

describe("problems", () => {
  it("keeps what is wrong at its field", () => {
    const p = toProblem({ detail: "x", errors: [{ location: "body.charge", message: "not an amount" }] }, 422);
    expect(p.fields.charge).toBe("not an amount");
    expect(p.message).toBe("not an amount");
    const stale = toProblem({ detail: "changed", errors: [{ location: "current", value: { version: 3 } }] }, 412);
    expect(stale.current).toEqual({ version: 3 });
    expect(stale.fields).toEqual({});
    expect(toProblem(null, 500).message).toMatch(/Nothing was changed/);
  });
});
