import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { plain } from "../../parts/money";
import { server, show } from "../../parts/testing";
import { Weigh } from ".";
import { percent, stars, table } from "./columns";
import type { Candidate } from "./queries";
import { inWords, readSieve, takes, written } from "./words";

const candidate = (id: number, more: object = {}): Candidate => ({
  id,
  supplier_product_id: 100 + id,
  match_id: 200 + id,
  state: "weighed",
  verdict: "certain",
  units_bought: 1,
  units_listed: 1,
  supplier: "Fernhollow Wholesale",
  ref: `R${id}`,
  gtin: "09520001424021",
  title: `Enamel mug ${id}`,
  brand: "Tarnwick",
  category: "mugs",
  entry: `Q7-${id}`,
  page: "",
  cost: 400,
  cost_currency: "GBP",
  landed: 400,
  stock: 9,
  weight: null,
  lowest: 1299,
  leading: null,
  sellers: 2,
  rating: 405,
  rank: null,
  profit_lowest: -37,
  margin_lowest: -28_500,
  return_lowest: -92_500,
  profit_leading: null,
  price_rule: 1499,
  profit_rule: 120,
  price_aim: 1480,
  above: 181,
  best_supplier: true,
  best_site: true,
  units_sold: 0,
  ties_up: null,
  ours: false,
  kept: false,
  reason: "",
  market_at: "2026-03-03T08:40:00Z",
  weighed_at: "2026-03-03T08:40:00Z",
  picture: "",
  ...more,
});

const facts = {
  sieves: [
    {
      id: 5,
      name: "Dear",
      sieve: '[{"column":"lowest","op":"above","values":["20"]}]',
      sort: "",
      down: true,
      facts: true,
    },
  ],
  columns: [
    { name: "lowest", kind: "amount", ops: ["above", "between", "empty"], follows: false },
    { name: "brand", kind: "name", ops: ["is", "one of"], follows: false },
    { name: "profit_lowest", kind: "amount", ops: ["above", "below"], follows: true },
    { name: "ours", kind: "truth", ops: ["is"], follows: true },
  ],
  look_ups: [],
};

const list = "GET /api/v1/sites/1/candidates";

const open = (at: string, rows: Candidate[], more: Record<string, unknown> = {}) => {
  const api = server({
    "GET /api/v1/sites": [
      { id: 1, name: "Quaymarket GB", currency: "GBP", marketplace: "Quaymarket", lists: true, charged: 0 },
    ],
    "GET /api/v1/sources": [{ id: 3, name: "Fernhollow Wholesale", supplier: "Fernhollow Wholesale" }],
    "GET /api/v1/filters": facts,
    "GET /api/v1/demo": { now: "2026-03-03T08:41:00Z" },
    [list]: { rows, total: rows.length, next: "" },
    ...more,
  });
  show(<Weigh />, at, "/weigh");
  return api;
};

describe("a sieve", () => {
  it("is read from an address as it was written, and anything else lets all through", () => {
    const s = [
      [{ column: "lowest", op: "above", values: ["20"] }],
      [
        { column: "ours", op: "is", values: ["no"] },
        { column: "brand", op: "empty" },
      ],
    ];
    expect(readSieve(written(s))).toEqual(s);
    expect(written([])).toBe("");
    expect(readSieve("{")).toEqual([]);
    expect(readSieve("4")).toEqual([]);
  });
  it("is said in words", () => {
    expect(inWords({ column: "lowest", op: "between", values: ["3", "4"] })).toBe("lowest between 3 and 4");
    expect(inWords({ column: "brand", op: "one of", values: ["A", "B"] })).toBe("brand one of A, B");
    expect(inWords({ column: "rating", op: "empty" })).toBe("rating not known");
    expect([takes("empty"), takes("between"), takes("above")]).toEqual([0, 2, 1]);
  });
});

describe("figures", () => {
  it("are blank where they aren't known, and never rounded to a sign of nothing", () => {
    expect(percent(null)).toBe("–");
    expect(percent(659_115)).toBe("65.9%");
    expect(percent(-28_500)).toBe("−2.9%");
    expect(percent(-400)).toBe("0.0%");
    expect(stars(404)).toBe("4.04");
    expect(stars(null)).toBe("–");
  });
  it("are copied as a table without a formula in it", () => {
    const text = table([candidate(1, { title: "=1+1\tx", ref: "@a", leading: null })], "GBP", plain);
    const [head, row] = text.split("\n").map((l) => l.split("\t"));
    expect(head).toHaveLength(row.length);
    expect(row.slice(1, 4)).toEqual(["'@a", "09520001424021", "'=1+1 x"]);
    expect(row.slice(5)).toEqual(["4.00", "12.99", "", "2", "-0.37", "-9.3%"]);
  });
});

describe("weigh", () => {
  it("says what to do where nothing was weighed", async () => {
    open("/weigh", []);
    expect(await screen.findByText("Nothing has been weighed here yet")).toBeTruthy();
  });
  it("adds conditions by key, and takes a named sieve", async () => {
    const api = open("/weigh", [candidate(1)]);
    await screen.findByText("Enamel mug 1");
    fireEvent.keyDown(window, { key: "f" });
    fireEvent.change(await screen.findByLabelText("Column"), { target: { value: "lowest" } });
    expect((screen.getByText("Add") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Value"), { target: { value: "12.50" } });
    fireEvent.click(screen.getByText("Add"));
    expect(await screen.findByText("lowest above 12.50")).toBeTruthy();
    await waitFor(() => expect(screen.getByText("goes through")).toBeTruthy());
    expect(screen.getByText("Keep this sieve")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("A named sieve"), { target: { value: "5" } });
    expect(await screen.findByText("lowest above 20")).toBeTruthy();
    expect(screen.queryByText("Keep this sieve")).toBeNull();
    expect(api.asked.filter((a) => a.what === list).length).toBeGreaterThan(2);
  });
  it("shows the columns that are chosen, in their order", async () => {
    open("/weigh?cols=lowest,nonsense,landed", [candidate(1)]);
    await screen.findByText("Enamel mug 1");
    const heads = () => screen.getAllByRole("columnheader").map((h) => h.textContent?.replace(/[↓↑\s]+$/, ""));
    expect(heads().slice(-4)).toEqual(["Supplier's product", "Lowest", "Landed cost", "Match"]);
    fireEvent.click(screen.getByText("Columns"));
    fireEvent.click(screen.getByLabelText("brand"));
    await waitFor(() => expect(heads().slice(-3)).toEqual(["Landed cost", "Brand", "Match"]));
    fireEvent.click(screen.getByLabelText("brand further left"));
    await waitFor(() => expect(heads().slice(-3)).toEqual(["Brand", "Landed cost", "Match"]));
    fireEvent.click(screen.getByText("The usual ones"));
    await waitFor(() => expect(heads()).toContain("Supplier"));
  });
  it("says how many were really sold, and sorts by it", async () => {
    const api = open("/weigh?cols=units_sold", [candidate(1, { units_sold: 17 }), candidate(2)]);
    expect((await screen.findByText("17")).closest("[role=row]")?.textContent).toContain("Enamel mug 1");
    fireEvent.click(screen.getByRole("button", { name: /Sold, 30 days/ }));
    await waitFor(() => expect(api.asked.filter((a) => a.what === list).at(-1)?.query).toContain("sort=units_sold"));
  });
  it("lists only what is certainly the same thing", async () => {
    const rows = [candidate(1), candidate(2, { verdict: "unsure" }), candidate(3, { ours: true, state: "matched" })];
    const api = open("/weigh", rows, {
      "POST /api/v1/matches/decide": { done: 1, failed: [] },
      "POST /api/v1/sites/1/candidates/match": { id: 1 },
    });
    await screen.findByText("Enamel mug 1");
    for (const box of screen.getAllByRole("checkbox")) fireEvent.click(box);
    expect(await screen.findByText("List 1 on Quaymarket GB")).toBeTruthy();
    fireEvent.keyDown(window, { key: "e" });
    fireEvent.keyDown(window, { key: "l" });
    await waitFor(() => expect(api.asked.some((a) => a.what === "POST /api/v1/matches/decide")).toBe(true));
    expect(api.asked.find((a) => a.what === "POST /api/v1/matches/decide")?.body).toEqual({
      choices: [{ id: 201, entry: "Q7-1", units_bought: 1, units_listed: 1, everywhere: true }],
    });
    expect(await screen.findByText("look at what is ready to send")).toBeTruthy();
  });
  it("puts what isn't certain on the desk, and drops with a reason", async () => {
    const api = open("/weigh", [candidate(2, { verdict: "unsure" })], {
      "POST /api/v1/sites/1/candidates/match": { id: 1 },
      "POST /api/v1/candidates/reject": { ok: true },
    });
    await screen.findByText("Enamel mug 2");
    fireEvent.click(screen.getByRole("checkbox"));
    fireEvent.click(await screen.findByText("Put 1 on Match's desk"));
    await waitFor(() => expect(api.asked.some((a) => a.what === "POST /api/v1/sites/1/candidates/match")).toBe(true));
    await waitFor(() => expect((screen.getByRole("checkbox") as HTMLInputElement).checked).toBe(false));
    fireEvent.click(screen.getByRole("checkbox"));
    await screen.findByText("Drop 1");
    fireEvent.keyDown(window, { key: "x" });
    fireEvent.change(await screen.findByLabelText("Why it is dropped"), { target: { value: "breaks in the post" } });
    fireEvent.click(screen.getByText("Drop 1"));
    await waitFor(() =>
      expect(api.asked.find((a) => a.what === "POST /api/v1/candidates/reject")?.body).toEqual({
        supplier_products: [102],
        reason: "breaks in the post",
      }),
    );
  });
});
