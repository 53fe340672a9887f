import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../parts/testing";
import { TakeBack } from "./back";

const row = {
  id: 1,
  listing_id: 12,
  sku: "TA-1",
  title: "Tarnwick mug",
  currency: "GBP",
  from_price: 1899,
  to_price: 1999,
  from_quantity: null,
  to_quantity: null,
  verdict: "go",
  why: "",
  profit: 310,
};

describe("taking back", () => {
  it("says of each line to what it goes back, and takes back what was chosen alone", async () => {
    const api = server({
      "GET /api/v1/submissions/7/reversal": {
        site: "Quaymarket GB",
        rows: [
          row,
          { ...row, id: 2, verdict: "held", why: "price moved 2 times already in 24 hours" },
          { ...row, id: 3, verdict: "blocked", why: "9.99 is under its floor now, which is 12.00" },
        ],
      },
      "POST /api/v1/submissions/7/revert": { send_outs: [8], lines: 2, reworked: 0, runs: [] },
    });
    show(<TakeBack id={7} onClose={() => {}} />, "/send/7", "/send/7");
    expect(await screen.findByRole("button", { name: /Take back 1 line/ })).toBeTruthy();
    expect(screen.getByText(/under its floor now/)).toBeTruthy();
    const boxes = screen.getAllByRole("checkbox") as HTMLInputElement[];
    expect(boxes.map((b) => [b.checked, b.disabled])).toEqual([
      [true, false],
      [false, false],
      [false, true],
    ]);
    fireEvent.click(boxes[1]);
    fireEvent.keyDown(window, { key: "." });
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/submissions/7/revert", body: { lines: [1, 2] } }]),
    );
    expect(await screen.findByText("another screen")).toBeTruthy();
  });
});
