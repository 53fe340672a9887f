import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../parts/testing";
import { Earned } from "./earned";
import { Purchases } from "./purchases";

const clock = { now: "2026-03-03T08:40:00Z", speed: 0 };

describe("what lost money", () => {
  it("says why, and opens into its order", async () => {
    const api = server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/earnings/losses": [
        {
          line: 1,
          order: 7,
          placed: "2026-02-11T16:00:00Z",
          title: "Steel flask",
          site: "Quaymarket GB",
          currency: "GBP",
          left: -7543,
          expected: 1779,
          why: "116.97 was given back",
        },
      ],
    });
    show(<Earned />, "/orders?part=earned&by=losses&from=2026-02-01");
    const table = await screen.findByRole("table", { name: "Sold at a loss" });
    expect(within(table).getByText(/^\u221275\.43/)).toBeTruthy();
    expect(within(table).getByText("17.79")).toBeTruthy();
    expect(within(table).getByText("116.97 was given back")).toBeTruthy();
    expect(within(table).getByRole("link", { name: "Steel flask" }).getAttribute("href")).toBe("/orders/7");
    expect(api.asked.find((a) => a.what.endsWith("/losses"))?.query).toContain("from=2026-02-01&to=2026-03-03");
  });

  it("says so where nothing did", async () => {
    server({ "GET /api/v1/demo": clock, "GET /api/v1/earnings/losses": [] });
    show(<Earned />, "/orders?part=earned&by=losses");
    expect(await screen.findByText("Nothing was sold at a loss then")).toBeTruthy();
  });
});

const idle = (listing: number, more: object) => ({
  listing,
  product: 10 + listing,
  sku: `K-${listing}`,
  title: `Mug ${listing}`,
  site: "Quaymarket GB",
  currency: "GBP",
  price: 1299,
  quantity: 4,
  looked: 0,
  led: 0,
  ...more,
});

describe("what wasn't sold", () => {
  const rows = [idle(1, { looked: 12, led: 3 }), idle(2, { looked: 9 }), idle(3, {})];
  const answer = { rows, total: 5, next: "more", more: false };

  it("says how often it led, never, or that nobody looked", async () => {
    server({ "GET /api/v1/demo": clock, "GET /api/v1/earnings/unsold-listings": answer });
    show(<Earned />, "/orders?part=earned&by=idle&from=2026-02-02");
    expect(await screen.findByText(/^5 on sale and not sold since 2 Feb 2026\./)).toBeTruthy();
    const led = (title: string) => screen.getByText(title).closest("tr")?.lastElementChild?.textContent;
    expect(led("Mug 1")).toBe("3 of 12");
    expect(led("Mug 2")).toBe("never of 9");
    expect(led("Mug 3")).toBe("\u2013");
    expect(screen.getByRole("link", { name: "Mug 1" }).getAttribute("href")).toBe("/products/11?listing=1");
  });

  it("goes on where there are more", async () => {
    const api = server({ "GET /api/v1/demo": clock, "GET /api/v1/earnings/unsold-listings": answer });
    show(<Earned />, "/orders?part=earned&by=idle");
    fireEvent.click(await screen.findByText("More"));
    await waitFor(() =>
      expect(api.asked.filter((a) => a.what.endsWith("/unsold-listings")).at(-1)?.query).toContain("cursor=more"),
    );
  });

  it("bears a day that is still being typed", async () => {
    server({ "GET /api/v1/demo": clock, "GET /api/v1/earnings/unsold-listings": answer });
    show(<Earned />, "/orders?part=earned&by=idle&from=2026-0");
    expect(await screen.findByText(/not sold since 2026-0\./)).toBeTruthy();
  });
});

const purchase = (id: number, more: object) => ({
  id,
  supplier: "Fernhollow Wholesale",
  ref: `P-0000${id}`,
  currency: "GBP",
  goods: 8475,
  delivery: 495,
  topped_up: 105,
  lines: 3,
  made: "2026-03-03T07:30:00Z",
  by: "Wren",
  arrived: null,
  orders_to: "",
  mailed: null,
  mail: "",
  mail_why: "",
  ...more,
});

describe("purchases", () => {
  const list = [
    purchase(1, {}),
    purchase(2, { orders_to: "orders@fernhollow.example" }),
    purchase(3, {
      arrived: "2026-03-03T08:10:00Z",
      mailed: "2026-03-03T07:31:00Z",
      mail: "sent",
      orders_to: "x@y.example",
    }),
  ];
  const open = () => {
    const api = server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/purchases": { rows: list, total: 3, next: "", more: false },
    });
    show(<Purchases />, "/orders?part=purchases");
    return api;
  };
  const row = async (ref: string) => {
    await screen.findByText(ref);
    return screen.getAllByRole("row").find((r) => r.textContent?.includes(ref)) as HTMLElement;
  };

  it("say what was paid for goods, and for delivery with what was topped up", async () => {
    open();
    const first = await row("P-00001");
    expect(within(first).getByText(/^84\.75/)).toBeTruthy();
    expect(within(first).getByText("6.00")).toBeTruthy();
    expect(within(first).getByRole("link", { name: "XLSX" }).getAttribute("href")).toBe(
      "/api/v1/purchases/1/export.xlsx",
    );
  });

  it("say that their mail was refused, and why, and are mailed again", async () => {
    const api = server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/purchases": {
        rows: [purchase(4, { mail: "refused", mail_why: "nobody here is called orders", orders_to: "x@y.example" })],
        total: 1,
        next: "",
      },
      "POST /api/v1/purchases/4/mail": { ok: true },
    });
    show(<Purchases />);
    expect((await screen.findByText("mail refused")).title).toContain("nobody here is called orders");
    fireEvent.click(screen.getByText("Mail it again"));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/purchases/4/mail" }]));
  });

  it("are mailed where their supplier takes orders so, and once", async () => {
    const api = open();
    expect(within(await row("P-00001")).queryByText("Mail it")).toBeNull();
    expect(within(await row("P-00003")).queryByText("Mail it")).toBeNull();
    expect(within(await row("P-00003")).getByText("mailed 07:31")).toBeTruthy();
    fireEvent.click(within(await row("P-00002")).getByText("Mail it"));
    await waitFor(() => expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/purchases/2/mail"]));
  });

  it("are noted as arrived, and then it is said when", async () => {
    const api = open();
    expect(within(await row("P-00003")).getByText("08:10")).toBeTruthy();
    fireEvent.click(within(await row("P-00001")).getByText("It has arrived"));
    await waitFor(() => expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/purchases/1/receive"]));
  });
});
