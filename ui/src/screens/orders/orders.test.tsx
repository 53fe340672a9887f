import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Books, monthBefore } from "./books";
import { Earned } from "./earned";
import { Order } from "./one";
import { Orders } from "./orders";
import { times } from "./overtime";

const clock = { now: "2026-03-03T08:40:00Z", speed: 0 };

const line: Schemas["LineRow"] = {
  id: 1,
  order_id: 7,
  order: "GB-00001",
  site: "Quaymarket GB",
  placed: "2026-03-03T08:00:00Z",
  currency: "GBP",
  sku: "BR-1",
  title: "Lantern",
  listing_id: 3,
  product_id: 4,
  quantity: 2,
  price: 1050,
  paid: 2100,
  state: "new",
  problem: "",
  supplier: "Fernhollow Wholesale",
  expected: 252,
  real: 252,
  late: false,
  arrived: false,
  carrier: "",
  tracking: "",
  refunded: 0,
  bought: null,
  sent: null,
  telling: false,
  picture: "",
};

const way = {
  supplier_product: 11,
  supplier: "Fernhollow",
  ref: "R1",
  items: 2,
  goods: 800,
  left_over: 0,
  words: "",
  chosen: true,
};

const split = (more: Partial<Schemas["SplitView"]> = {}, words = ""): Schemas["SplitView"] => ({
  currency: "GBP",
  total: 1295,
  best: 1295,
  proved: true,
  lines: [
    {
      id: 1,
      order: "GB-00001",
      site: "Quaymarket GB",
      sku: "BR-1",
      title: "Lantern",
      quantity: 2,
      expected: 790,
      profit: 252,
      words,
      ways: [way, { ...way, supplier_product: 12, supplier: "Tidewrack", goods: 900, chosen: false }],
    },
  ],
  suppliers: [{ id: 1, supplier: "Fernhollow", goods: 800, delivery: 495, topped_up: 0 }],
  unserved: [],
  losses: [],
  ...more,
});

const answers = (s: Schemas["SplitView"]) => ({
  "GET /api/v1/demo": clock,
  "GET /api/v1/sites": [],
  "GET /api/v1/counts": { orders_buy: 1 },
  "GET /api/v1/order-lines": { rows: [line], total: 1, next: "", more: false },
  "POST /api/v1/purchases/split": s,
  "POST /api/v1/purchases": [1],
});

describe("orders", () => {
  it("are bought as was shown, by key", async () => {
    const api = server(answers(split()));
    show(<Orders />, "/orders");
    await screen.findByText("GB-00001");
    fireEvent.keyDown(document.body, { key: "." });
    expect(await screen.findByText("nothing costs less")).toBeTruthy();
    expect(screen.getByText(/4.95 delivery/)).toBeTruthy();
    await waitFor(() => expect((screen.getByText(/^Buy 1/) as HTMLButtonElement).disabled).toBe(false));
    fireEvent.keyDown(document.body, { key: "." });
    await waitFor(() =>
      expect(api.writes().find((w) => w.what.endsWith("/purchases"))?.body).toEqual({ lines: [1], choice: { 1: 11 } }),
    );
  });

  it("want a yes where one loses money", async () => {
    const api = server(answers(split({ losses: [1] }, "at a loss of 1.20 GBP")));
    show(<Orders />, "/orders");
    await screen.findByText("GB-00001");
    fireEvent.keyDown(document.body, { key: "." });
    expect(await screen.findByText("at a loss of 1.20 GBP")).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "." });
    expect(api.writes().some((w) => w.what.endsWith("/purchases"))).toBe(false);
    fireEvent.click(screen.getByRole("checkbox"));
    fireEvent.click(screen.getByText(/^Buy 1/));
    await waitFor(() =>
      expect(api.writes().find((w) => w.what.endsWith("/purchases"))?.body).toEqual({
        lines: [1],
        choice: { 1: 11 },
        yes: true,
      }),
    );
  });

  it("that can go out are told from those still on their way here", async () => {
    const bought = { ...line, state: "bought" as const };
    server({
      ...answers(split()),
      "GET /api/v1/order-lines": {
        rows: [
          { ...bought, title: "Kettle" },
          { ...bought, id: 2, title: "Mug", arrived: true },
          { ...bought, id: 3, title: "Tarp", arrived: true, late: true },
        ],
        total: 3,
        next: "",
        more: false,
      },
    });
    show(<Orders />, "/orders?part=send");
    await screen.findByText("Tarp");
    const rows = screen.getAllByRole("row").map((r) => r.textContent ?? "");
    expect(rows[1]).toMatch(/Kettle.*bought$/);
    expect(rows[2]).toMatch(/Mug.*arrived$/);
    expect(rows[3]).toMatch(/Tarp.*arrived, late$/);
  });

  it("say what a choice of one's own costs", async () => {
    const api = server(answers(split({ total: 1395 })));
    show(<Orders />, "/orders");
    await screen.findByText("GB-00001");
    fireEvent.keyDown(document.body, { key: "." });
    expect(await screen.findByText("1.00 GBP more than it can cost")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("From whom Lantern"), { target: { value: "12" } });
    await waitFor(() => expect(api.writes().at(-1)?.body).toEqual({ lines: [1], choice: { 1: 12 } }));
  });

  it("lay what really was beside what was expected, and both add up", async () => {
    server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/orders/7": {
        id: 7,
        ref: "GB-00001",
        site: "Quaymarket GB",
        placed: line.placed,
        currency: "GBP",
        origin: "gateway",
        buyer: { name: "Ada Quill", address: ["1 Kiln Lane"], country: "GB" },
        unmailed: [{ subject: "Your order", refused: true, why: "nobody here is called ada" }],
        lines: [
          {
            ...line,
            state: "bought",
            beside: [
              { name: "item price", expected: 2100, real: 2100, known: true },
              { name: "landed cost", expected: -790, real: -850, known: true },
              { name: "commission", expected: -1058, real: -1058, known: false },
            ],
          },
        ],
      },
    });
    show(<Order />, "/orders/7", "/orders/:id");
    expect(await screen.findByText("Ada Quill")).toBeTruthy();
    expect(screen.getByText("2.52")).toBeTruthy();
    expect(screen.getByText("1.92")).toBeTruthy();
    expect(screen.getByText(/was refused, and its buyer doesn't know: nobody here is called ada/)).toBeTruthy();
  });
});

describe("what was earned", () => {
  it("is drawn for every day and month of a time, those too without a sale", () => {
    expect(times("day", "2026-02-27", "2026-03-02")).toEqual(["2026-02-27", "2026-02-28", "2026-03-01", "2026-03-02"]);
    expect(times("month", "2025-11-30", "2026-02-01")).toEqual(["2025-11", "2025-12", "2026-01", "2026-02"]);
    expect(times("day", "2026-03-02", "2026-03-01")).toEqual([]);
    expect(times("day", "soon", "today")).toHaveLength(1);
  });
  it("adds up by currency, and opens into its orders", async () => {
    const row: Schemas["EarnedRow"] = {
      key: "2026-03-02",
      name: "2026-03-02",
      currency: "GBP",
      lines: 2,
      units: 3,
      sales: 3000,
      tax: -500,
      fees: -300,
      cost: -1500,
      sending: 0,
      other: 0,
      refunds: -250,
      left: 450,
      expected: 700,
      losses: 1,
      unknown: 0,
    };
    server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/earnings": {
        from: "2026-02-02",
        to: "2026-03-03",
        by: "day",
        rows: [row],
        totals: [{ ...row, key: "", name: "all" }],
      },
    });
    show(<Earned />, "/orders?part=earned");
    expect((await screen.findByRole("img")).getAttribute("aria-label")).toBe("Left by day, GBP: 2 Mar 4.50");
    expect(await screen.findByText(/2.50 GBP less than was expected; 1 at a loss/)).toBeTruthy();
    expect(screen.getAllByText("4.50").length).toBeGreaterThan(0);
    expect(screen.getByText("2 Mar 2026").closest("a")?.getAttribute("href")).toBe(
      "/orders?part=all&from=2026-03-02&to=2026-03-02",
    );
  });
});

describe("what lost money, and what wasn't sold", () => {
  it("says why, and whether its price ever led", async () => {
    server({
      "GET /api/v1/demo": { now: "2026-03-03T09:00:00Z", role: "owner" },
      "GET /api/v1/earnings/losses": [
        {
          line: 4,
          order: 9,
          placed: "2026-03-01T09:00:00Z",
          title: "Mug",
          site: "Quaymarket GB",
          currency: "GBP",
          left: -120,
          expected: 200,
          why: "goods: 3.20 more than was expected",
        },
      ],
      "GET /api/v1/earnings/unsold-listings": {
        rows: [
          {
            listing: 1,
            product: 2,
            sku: "A",
            title: "Tarp",
            site: "S",
            currency: "GBP",
            price: 999,
            quantity: 3,
            looked: 8,
            led: 0,
          },
        ],
        total: 1,
        next: "",
      },
    });
    show(<Orders />, "/orders?part=earned&by=losses");
    expect((await screen.findByText("Mug")).closest("a")?.getAttribute("href")).toBe("/orders/9");
    expect(screen.getByText("goods: 3.20 more than was expected")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Show"), { target: { value: "idle" } });
    expect((await screen.findByText(/never of 8/)).textContent).toBe("never of 8");
    expect(screen.getByText("Tarp").closest("a")?.getAttribute("href")).toBe("/products/2?listing=1");
  });
});

describe("the books", () => {
  const row = { of: "", country: "GB", rate: "20%", currency: "GBP", lines: 2, gross: 2400, tax: 400, net: 2000 };

  it("close a month that is over", async () => {
    const api = server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/books/2026-02": {
        month: "2026-02",
        closed: null,
        closed_by: "",
        rows: [row, { ...row, of: "2026-01", lines: 0, gross: -300, tax: -50, net: -250 }],
        totals: [{ ...row, gross: 2100, tax: 350, net: 1750 }],
      },
      "POST /api/v1/books/2026-02/close": { done: true },
    });
    show(<Books />, "/orders?part=books&month=2026-02");
    expect(await screen.findByText("2026-01")).toBeTruthy();
    expect(screen.getByText("all in GBP")).toBeTruthy();
    fireEvent.click(screen.getByText("Close 2026-02"));
    await waitFor(() => expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/books/2026-02/close"]));
  });

  it("leave the month that it is open", async () => {
    server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/books/2026-03": { month: "2026-03", closed: null, closed_by: "", rows: [row], totals: [row] },
    });
    show(<Books />, "/orders?part=books");
    expect(await screen.findByText("GB")).toBeTruthy();
    expect(screen.queryByText(/^Close/)).toBeNull();
    expect(monthBefore("2026-01")).toBe("2025-12");
    expect(monthBefore("2025-12", -1)).toBe("2026-01");
  });
});
