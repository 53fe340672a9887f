import { describe, expect, it } from "vitest";
import { next } from "./how";

describe("when something goes", () => {
  it("is the next time that a clock shows it", () => {
    expect(next("18:30", "2026-03-03T08:40:00Z")).toBe("2026-03-03T18:30:00.000Z");
    expect(next("08:40", "2026-03-03T08:40:00Z")).toBe("2026-03-04T08:40:00.000Z");
    expect(next("00:10", "2026-12-31T23:59:00Z")).toBe("2027-01-01T00:10:00.000Z");
  });
  it("is at once where no hour is written", () => {
    for (const text of ["", "8", "24:00", "18:60", "now"]) expect(next(text, "2026-03-03T08:40:00Z")).toBeUndefined();
  });
});
