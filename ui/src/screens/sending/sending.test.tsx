import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem, type Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Send, SendOut } from ".";

const sendOut = (more: Partial<Schemas["SendOutRow"]>): Schemas["SendOutRow"] => ({
  id: 7,
  batch: "",
  site: "Quaymarket GB",
  state: "waiting",
  plan_id: null,
  lines: 10,
  waiting: 10,
  confirmed: 0,
  refused: 0,
  unknown: 0,
  withdrawn: 0,
  sheets: 0,
  not_uploaded: 0,
  given_up: 0,
  error: "",
  words: "It is on its way.",
  may_end: false,
  perhaps: false,
  overdue: null,
  sender: "owner",
  alone: false,
  undoes: null,
  created: "2026-03-03T08:40:00Z",
  done: null,
  goes: null,
  held: false,
  ...more,
});

const open = (more: Partial<Schemas["SendOutRow"]>, answers: Record<string, unknown> = {}) => {
  const api = server({ "GET /api/v1/submissions/7": sendOut(more), ...answers });
  show(<SendOut />, "/send/7", "/send/:id");
  return api;
};

describe("a send-out", () => {
  it("that is on its way can be neither tried again nor given up", async () => {
    open({});
    expect((await screen.findByRole("status")).textContent).toContain("It is on its way.");
    expect(screen.queryByRole("button", { name: "Give it up" })).toBeNull();
  });
  it("that nothing is done for says why, and lets a person choose", async () => {
    const api = open({
      may_end: true,
      error: "Quaymarket can't be reached",
      words: "Nothing of it was changed there.",
    });
    expect((await screen.findByRole("alert")).textContent).toContain("Nothing of it was changed there.");
    fireEvent.click(screen.getByRole("button", { name: "Try again" }));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/submissions/7/retry" }]));
  });
  it("says what the server answers where it may not be given up after all", async () => {
    open(
      { may_end: true, error: "x", state: "sent" },
      { "POST /api/v1/submissions/7/abandon": new Problem("this send-out is on its way or through", 409) },
    );
    expect(await screen.findByRole("button", { name: "Ask again" })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Give it up" }));
    expect(await screen.findByText("this send-out is on its way or through")).toBeTruthy();
  });
  it("counts what nobody told, and what was taken back in time", async () => {
    open({ state: "done", waiting: 0, confirmed: 6, refused: 1, unknown: 2, withdrawn: 1, words: "It is read back." });
    expect(await screen.findByText("2 unknown")).toBeTruthy();
    expect(screen.getByText("1 taken back in time")).toBeTruthy();
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("10");
    expect(screen.getByRole("status").textContent).toContain("It is read back.");
    expect(screen.getAllByRole("tab").map((t) => t.textContent)).toEqual([
      "All lines10",
      "Refused1",
      "Unknown2",
      "Withdrawn1",
    ]);
  });
});

describe("what is ready to go", () => {
  const listing = (id: number) => ({
    id,
    title: `mug ${id}`,
    sku: `M-${id}`,
    currency: "GBP",
    price: 1099,
    state: "ready",
  });
  it("goes as chosen, or all of it", async () => {
    const api = server({
      "GET /api/v1/listings": { rows: [listing(1), listing(2), listing(3)], total: 3, next: "" },
      "POST /api/v1/submissions": { send_outs: [7], lines: 1, reworked: 0, runs: [] },
    });
    show(<Send />, "/send", "/send");
    expect(await screen.findByRole("button", { name: /Send 3 ready listings/ })).toBeTruthy();
    fireEvent.click(await screen.findByLabelText("select row 2"));
    fireEvent.click(await screen.findByRole("button", { name: /^Send 1 / }));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/submissions", body: { listings: [2] } }]));
    expect(await screen.findByText("another screen")).toBeTruthy();
  });
});

describe("what is on sale and tied to nothing here", () => {
  it("is listed, and read back when asked for", async () => {
    const api = server({
      "GET /api/v1/sites": [{ id: 1, name: "Quaymarket GB", lists: true, address: "http://127.0.0.1:1" }],
      "GET /api/v1/supplier-products": [
        { id: 7, title: "Clock, tide", supplier: "Fernhollow", ref: "FW-7", picture: "" },
      ],
      "GET /api/v1/unlinked-offers": {
        rows: [
          {
            id: 1,
            sku: "OLD-1",
            site: "Quaymarket GB",
            entry: "Q7-1",
            price: 1250,
            quantity: 3,
            currency: "GBP",
            seen: "2026-03-03T08:40:00Z",
            site_id: 1,
            title: "Tide clock",
            gtin: "",
          },
        ],
        total: 1,
        next: "",
      },
    });
    show(<Send />, "/send?tab=untied", "/send");
    expect(await screen.findByText("OLD-1")).toBeTruthy();
    expect(screen.getByText("12.50 GBP")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Read Quaymarket GB back now" }));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/sites/1/listings/read-back" }]));
    // and tied by hand
    fireEvent.click(screen.getByText("Tide clock"));
    fireEvent.change(await screen.findByLabelText("in the supplier's item"), { target: { value: "6" } });
    await screen.findByText("Clock, tide");
    fireEvent.keyDown(window, { key: "1" });
    await waitFor(() =>
      expect(api.writes()[1]).toEqual({
        what: "POST /api/v1/unlinked-offers/link",
        body: { site_id: 1, sku: "OLD-1", supplier_product_id: 7, units_bought: 6, units_listed: 1 },
      }),
    );
  });
});

describe("after a send-out", () => {
  const counts = { match_several: 4, match_none: 0, unpriced: 0, ready: 0, refused: 3, plan_lines: 0 };
  it("puts what was refused before what else waits", async () => {
    open({ state: "done", refused: 3 }, { "GET /api/v1/counts": counts });
    const next = await screen.findByRole("navigation", { name: "What comes next" });
    await waitFor(() => expect(next.querySelectorAll("button").length).toBe(2));
    expect([...next.querySelectorAll("button")].map((b) => b.textContent?.trim())).toEqual([
      "3 refused: read why .",
      "4 wait on Match",
    ]);
  });
});
