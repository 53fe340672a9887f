import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Watch } from ".";

const group = (kind: string, more: Partial<Schemas["PlanGroup"]>): Schemas["PlanGroup"] =>
  ({
    kind,
    name: kind,
    lines: 1,
    go: 1,
    held: 0,
    blocked: 0,
    on_sale: 0,
    gain: 0,
    first: false,
    words: "",
    ...more,
  }) as Schemas["PlanGroup"];

const line = (id: number, kind: string, more: Partial<Schemas["PlanRow"]> = {}) => ({
  id,
  listing_id: id,
  kind,
  title: `mug ${id}`,
  sku: `M-${id}`,
  currency: "GBP",
  verdict: "go",
  verdict_why: "",
  reasons: [`reason ${id}`],
  from_price: 1099,
  to_price: 1149,
  from_quantity: null,
  to_quantity: null,
  profit_was: 100,
  profit_new: 150,
  ...more,
});

const plan = {
  id: 4,
  site_id: 1,
  site: "Quaymarket GB",
  sites: [{ id: 1, name: "Quaymarket GB" }],
  currency: "GBP",
  made: "2026-03-03T09:15:00Z",
  reworked: 0,
  groups: [
    group("zero", { name: "Stock to nothing", first: true, words: "24.50 GBP on sale that can't be had" }),
    group("up", { name: "Price up", lines: 2, go: 1, held: 1 }),
  ],
};

const lines = [
  line(1, "zero", { from_price: null, to_price: null, from_quantity: 5, to_quantity: 0 }),
  line(2, "up"),
  line(3, "up", { verdict: "held", verdict_why: "the cost moved by more than 30 %" }),
];

const open = (over: object = {}) => {
  const api = server({
    "GET /api/v1/plans": { ...plan, ...over },
    "GET /api/v1/plans/4/lines": { rows: lines, total: 3, next: "" },
    "POST /api/v1/plans/4/submit": { send_outs: [9], lines: 2, reworked: 0, runs: [] },
  });
  show(<Watch />, "/watch", "/watch");
  return api;
};

describe("the plan", () => {
  it("says what goes first, what it is about, and why a line is held", async () => {
    open();
    expect(await screen.findByText(/^3 changes to make/)).toBeTruthy();
    expect(await screen.findByRole("button", { name: /Stock to nothing/ })).toBeTruthy();
    expect((await screen.findAllByText(/go out first/)).length).toBeGreaterThan(0);
    expect(screen.getByText("24.50 GBP on sale that can't be had")).toBeTruthy();
    expect(screen.getByText(/the cost moved by more than 30 %/)).toBeTruthy();
  });
  it("lets go of what may, less what was taken out, and of held lines that were chosen", async () => {
    const api = open();
    expect(await screen.findByRole("button", { name: /Send 2 changes/ })).toBeTruthy();
    const boxes = await screen.findAllByRole("checkbox");
    expect(boxes.map((b) => (b as HTMLInputElement).checked)).toEqual([true, true, false]);
    fireEvent.click(boxes[1]);
    fireEvent.click(boxes[2]);
    fireEvent.keyDown(window, { key: "." });
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/plans/4/submit", body: { except: [2], held: [3] } }]),
    );
    expect(await screen.findByText("another screen")).toBeTruthy();
  });
  it("of all sites together goes site by site, where a gateway takes it", async () => {
    const api = server({
      "GET /api/v1/plans": {
        ...plan,
        id: 0,
        site_id: 0,
        site: "all sites",
        currency: "",
        sites: [
          { id: 1, name: "Quaymarket GB", plan_id: 4, sends: true },
          { id: 2, name: "Gullery Fair IE", plan_id: 5, sends: false },
          { id: 3, name: "Quaymarket IE", plan_id: 6, sends: true },
        ],
      },
      "GET /api/v1/plans/0/lines": { rows: lines, total: 3, next: "" },
      "POST /api/v1/plans/4/submit": { send_outs: [9], lines: 2, reworked: 0, runs: [] },
      "POST /api/v1/plans/6/submit": { send_outs: [], lines: 0, reworked: 0, runs: [] },
    });
    show(<Watch />, "/watch?site=-1", "/watch");
    fireEvent.click(await screen.findByRole("button", { name: /Send 2 changes everywhere/ }));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/plans/4/submit", body: {} },
        { what: "POST /api/v1/plans/6/submit", body: {} },
      ]),
    );
    expect(await screen.findByText("another screen")).toBeTruthy();
  });
  it("says what stayed behind, and stays where nothing went", async () => {
    server({
      "GET /api/v1/plans": plan,
      "GET /api/v1/plans/4/lines": { rows: lines, total: 3, next: "" },
      "POST /api/v1/plans/4/submit": { send_outs: [], lines: 0, reworked: 2, runs: [] },
    });
    show(<Watch />, "/watch", "/watch");
    fireEvent.click(await screen.findByRole("button", { name: /Send 2 changes/ }));
    expect(await screen.findByText(/2 listings stayed behind/)).toBeTruthy();
    expect(screen.queryByText("another screen")).toBeNull();
  });
  it("says what is being worked out again", async () => {
    open({ reworked: 12 });
    expect(await screen.findByText(/12 listings are being worked out again/)).toBeTruthy();
  });
  it("says so where nothing has to change", async () => {
    open({ id: 0, groups: [] });
    expect(await screen.findByText("Nothing has to change")).toBeTruthy();
  });
});
