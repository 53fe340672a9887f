import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../parts/testing";
import { EarnedToday } from "./earned";

const row = (key: string, left: number, currency = "GBP") => ({ key, name: key, currency, left });

const open = (rows: object[], totals: object[]) => {
  const api = server({
    "GET /api/v1/demo": { now: "2026-03-03T08:40:00Z", speed: 0 },
    "GET /api/v1/earnings": { from: "2026-02-03", to: "2026-03-03", by: "day", rows, totals },
  });
  show(<EarnedToday />);
  return api;
};

describe("earned today", () => {
  it("stands beside a usual day of the four weeks before, in each currency", async () => {
    const api = open(
      [row("2026-02-03", 2000), row("2026-02-20", 3600), row("2026-03-03", 2135), row("2026-03-01", 90, "EUR")],
      [
        { currency: "GBP", left: 7735 },
        { currency: "EUR", left: 90 },
      ],
    );
    expect(await screen.findByText(/^21\.35/)).toBeTruthy();
    expect(screen.getByText("a usual day 2.00")).toBeTruthy(); // 56.00 over 28 days
    expect(screen.getByText(/^0\.00/)).toBeTruthy();
    expect(screen.getByText("a usual day 0.45")).toBeTruthy(); // it is sold in for two days
    expect(api.asked.find((a) => a.what === "GET /api/v1/earnings")?.query).toContain("from=2026-02-03&to=2026-03-03");
  });

  it("says nothing of a usual day on the first one", async () => {
    open([row("2026-03-03", -120)], [{ currency: "GBP", left: -120 }]);
    expect(await screen.findByText(/^\u22121\.20/)).toBeTruthy();
    expect(screen.queryByText(/usual/)).toBeNull();
  });

  it("isn't there before anything was sold", async () => {
    const api = open([], []);
    await waitFor(() => expect(api.asked.some((a) => a.what === "GET /api/v1/earnings")).toBe(true));
    expect(screen.queryByText("Earned today")).toBeNull();
  });
});
