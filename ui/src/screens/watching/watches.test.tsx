import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { ThroughTime, Watch } from ".";

vi.setConfig({ testTimeout: 20_000 }); // screens with several questions, beside many other tests

const sites = [{ id: 1, name: "Quaymarket GB", currency: "GBP", lists: true, address: "http://gateway.example" }];
const common = {
  "GET /api/v1/sites": sites,
  "GET /api/v1/plans": { id: 0, sites: [], site_id: 0, site: "", currency: "", groups: [], reworked: 0, runs: "" },
  "GET /api/v1/demo": { demo: false, password: false, now: "2026-03-03T09:00:00Z" },
  "GET /api/v1/filters": { sieves: [] },
};

const watch = {
  id: 3,
  version: 1,
  name: "Nearly sold out",
  ready: "",
  number: "stock",
  test: "below",
  value: "3",
  once: false,
  mail: true,
  active: true,
  words: "stock of anything we list is below 3 units",
  product: "",
  holds: 2,
  hits: 4,
  unseen: 1,
  fired: "2026-03-03T07:00:00Z",
  looked: "2026-03-03T08:59:00Z",
  quiet_until: null,
};

const hit = {
  id: 9,
  watch_id: 3,
  watch: "Nearly sold out",
  listing_id: 12,
  words: "Tarnwick mug on Quaymarket GB",
  link: "/watch/listings/12",
  before: "7 units",
  after: "1 units",
  at: "2026-03-03T07:00:00Z",
  mailed: null,
  seen: false,
  picture: "",
};

describe("watches", () => {
  const open = (answers: Record<string, unknown> = {}) => {
    const api = server({
      ...common,
      "GET /api/v1/watches": [watch],
      "GET /api/v1/watch-hits": { rows: [hit], total: 1, next: "" },
      ...answers,
    });
    show(<Watch />, "/watch?tab=watches", "/watch");
    return api;
  };
  it("say what they watch, how often they were set off, and what by: before and after", async () => {
    open();
    expect(await screen.findByText("stock of anything we list is below 3 units")).toBeTruthy();
    expect(screen.getByText("1 new")).toBeTruthy();
    expect(screen.getByText("holds for 2")).toBeTruthy();
    expect(await screen.findByText("Tarnwick mug on Quaymarket GB")).toBeTruthy();
    expect(screen.getByText("1 units").parentElement?.textContent).toBe("7 → 1 units");
    expect(screen.getByRole("link", { name: "see" }).getAttribute("href")).toBe("/watch/listings/12");
  });
  it("are made by a key, and say at the field what can't be read", async () => {
    const api = open({ "POST /api/v1/watches": new Problem("few is no whole number", 422) });
    await screen.findByText("holds for 2");
    fireEvent.keyDown(window, { key: "n" });
    fireEvent.change(await screen.findByLabelText("the value"), { target: { value: "few" } });
    fireEvent.click(screen.getByRole("button", { name: "Watch it" }));
    expect(await screen.findByText("few is no whole number")).toBeTruthy();
    expect(api.writes()[0]).toMatchObject({
      what: "POST /api/v1/watches",
      body: { number: "stock", test: "below", value: "few", once: false, mail: false, active: true },
    });
  });
});

describe("what differs there", () => {
  it("is kept as it is there, or ours is sent: only what was chosen", async () => {
    const row = {
      id: 5,
      listing_id: 12,
      kind: "changed",
      sku: "TA-1",
      title: "Tarnwick mug",
      site: "Quaymarket GB",
      page: "",
      currency: "GBP",
      our_price: 1999,
      our_quantity: 8,
      their_price: 1850,
      their_quantity: 8,
      wanted: 1999,
      floor: 1500,
      seen: "2026-03-03T08:00:00Z",
      picture: "",
    };
    const api = server({
      ...common,
      "GET /api/v1/differences": {
        rows: [row, { ...row, id: 6, kind: "ended", their_price: null }],
        total: 2,
        next: "",
      },
      "POST /api/v1/differences/decide": { ok: true },
    });
    show(<Watch />, "/watch?tab=differs", "/watch");
    expect(await screen.findByText("18.50 GBP × 8", {}, { timeout: 8000 })).toBeTruthy();
    expect(screen.getByText("ended there")).toBeTruthy();
    const keep = screen.getByRole("button", { name: "Keep theirs" });
    expect((keep as HTMLButtonElement).disabled).toBe(true);
    fireEvent.click((await screen.findAllByRole("checkbox"))[0]);
    fireEvent.click(keep);
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/differences/decide", body: { ids: [5], theirs: true } }]),
    );
  });
});

describe("what is on sale there", () => {
  it("is read back when it is asked for", async () => {
    const api = server({ ...common, "POST /api/v1/sites/1/listings/read-back": { ok: true } });
    show(<Watch />, "/watch?tab=differs", "/watch");
    await screen.findByText("Nothing differs", {}, { timeout: 8000 });
    fireEvent.click(screen.getByRole("button", { name: "Read back now" }));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/sites/1/listings/read-back" }]));
  });
});

describe("how it follows", () => {
  const figures = {
    buffer: 1,
    least: 1,
    cap: 10,
    patience: 1,
    unknown: 0,
    saving: "2%",
    small: "0.5%",
    cost_moved: "30%",
    price_moved: "25%",
    moves_per_day: 2,
    rival_moves: 6,
    loss: false,
    rest: true,
  };
  const following = {
    version: 4,
    site: { figures, runs: "by hand", most_at_once: 0, most_a_day: 0, batch_hours: 6 },
    rules: [{ id: 8, version: 1, name: "Mugs", listings: 51, figures: { buffer: 3 }, runs: "alone" }],
  };
  const trial = {
    listings: 400,
    of: 400,
    kinds: [{ kind: "zero", name: "Stock to nothing", verdict: "go", now: 9, after: 31 }],
    offered: [3012, 2810],
    none: [83, 105],
    switch: [0, 0],
  };
  const open = () => {
    const api = server({
      ...common,
      "GET /api/v1/sites/1/policy": following,
      "POST /api/v1/sites/1/policy/try": trial,
      "PUT /api/v1/sites/1/policy": { ok: true },
      "PUT /api/v1/rules/8/policy": { ok: true },
    });
    show(<Watch />, "/watch?tab=follow", "/watch");
    return api;
  };
  it("shows what other figures would make of the plan before they are kept", async () => {
    const api = open();
    const row = (await screen.findByText("Stock to nothing", {}, { timeout: 8000 })).closest("tr");
    expect(row?.textContent).toBe("Stock to nothing931");
    const buffer = screen.getByLabelText("Kept back");
    fireEvent.change(buffer, { target: { value: "4" } });
    await waitFor(() =>
      expect(api.asked.filter((x) => x.what.endsWith("/try")).at(-1)?.body).toMatchObject({
        rule_id: 0,
        figures: { buffer: 4, cap: 10 },
      }),
    );
    fireEvent.change(screen.getByLabelText("What may go"), { target: { value: "alone" } });
    expect(await screen.findByText(/Stock to nothing always goes at once/)).toBeTruthy();
    expect((await screen.findByRole("status")).textContent).toMatch(/31 changes go to the marketplace within seconds/);
    fireEvent.click(screen.getByRole("button", { name: "Keep this and send up to 31" }));
    await waitFor(() => {
      const put = api.writes().find((x) => x.what === "PUT /api/v1/sites/1/policy");
      expect(put?.body).toMatchObject({ runs: "alone", figures: { buffer: 4, rest: true } });
    });
  });
  it("opens a rule, whose empty fields are as its site has them", async () => {
    const api = open();
    fireEvent.click(await screen.findByRole("button", { name: /Mugs/ }, { timeout: 8000 }));
    const cap = await screen.findByLabelText("Never more than");
    expect((cap as HTMLInputElement).placeholder).toBe("10");
    fireEvent.click(screen.getByRole("button", { name: "Keep this" }));
    await waitFor(() =>
      expect(api.writes().find((x) => x.what.startsWith("PUT"))).toMatchObject({
        what: "PUT /api/v1/rules/8/policy",
        body: { figures: { buffer: 3 }, runs: "alone" },
      }),
    );
  });
});

describe("a listing through time", () => {
  it("is drawn, can be read as a table, and says of each change why, by whom and what came of it", async () => {
    const at = (h: number) => `2026-03-03T0${h}:00:00Z`;
    const step = { cost: 1200, price: 1999, floor: 1500, lowest: 2010, leading: 2010, stock: 7, quantity: 6 };
    server({
      ...common,
      "GET /api/v1/listings/12": {
        id: 12,
        title: "Tarnwick mug",
        sku: "TA-1",
        site: "Quaymarket GB",
        state: "live",
        currency: "GBP",
      },
      "GET /api/v1/listings/12/timeline": {
        currency: "GBP",
        charged: 0,
        from: at(1),
        to: at(9),
        steps: [
          { at: at(1), ...step },
          { at: at(5), ...step, price: 1899 },
        ],
      },
      "GET /api/v1/listings/12/submitted": {
        rows: [
          {
            id: 1,
            send_out_id: 7,
            at: at(5),
            answered: at(5),
            from_price: 1999,
            price: 1899,
            from_quantity: null,
            quantity: null,
            reasons: ["set by a rival: Gannet asks 19.00 in all"],
            rule: "Mugs",
            sender: "on its own",
            alone: true,
            undoes: null,
            state: "confirmed",
            words: "",
            profit: 240,
          },
        ],
        total: 1,
        next: "",
      },
    });
    show(<ThroughTime />, "/watch/listings/12", "/watch/listings/:id");
    expect(await screen.findByRole("img", { name: /now the price is 18.99/ })).toBeTruthy();
    expect(await screen.findByText("set by a rival: Gannet asks 19.00 in all")).toBeTruthy();
    expect(screen.getByText("the rule Mugs")).toBeTruthy();
    fireEvent.click(screen.getByRole("tab", { name: "The drawing as a table" }));
    expect((await screen.findAllByText("18.99")).length).toBe(1);
  });
});
