import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { DocketPage, Products } from ".";

type Docket = Schemas["Docket"];

const docket = (more: Partial<Docket> = {}): Docket => ({
  product_id: 7,
  title: "Skarholt dry sack",
  variant: "20 l",
  listing_id: 3,
  site: "Quaymarket GB",
  sku: "K-7",
  page: "",
  listings: [
    { id: 3, site: "Quaymarket GB", state: "live", currency: "GBP", own: false, price: 1999, profit: 161 },
    { id: 4, site: "Lantern Row GB", state: "refused", currency: "GBP", own: true, price: 2149, profit: 190 },
  ],
  rows: [
    { aspect: "Title", supply: "DRY SACK 20L", ours: "Skarholt dry sack", market: "Dry sack, 20 l", notes: [] },
    { aspect: "Price", supply: "9.00 GBP", ours: "19.99 GBP", market: "18.50 GBP", notes: ["somebody went under us"] },
  ],
  suppliers: [
    {
      item_id: 40,
      supplier: "Fernhollow Wholesale",
      ref: "FW-7",
      cost: 900,
      currency: "GBP",
      state: "known",
      stock: 12,
      present: true,
      proposed: false,
      landed: null,
      why: "",
    },
    {
      item_id: 41,
      supplier: "Tidewrack Clearance",
      ref: "TW-1",
      cost: 850,
      currency: "GBP",
      state: "gone",
      stock: 0,
      present: false,
      proposed: false,
      landed: null,
      why: "",
    },
  ],
  supply_pictures: [],
  our_pictures: ["a".repeat(64)],
  market_pictures: [],
  waiting: 2,
  ...more,
});

const explained = {
  listing_id: 3,
  site: "Quaymarket GB",
  site_id: 1,
  currency: "GBP",
  price: 1999,
  profit: 161,
  landed: 900,
  break_even: 1720,
  floor: 1850,
  charged: 0,
  live: 1999,
  crossed: null,
  margin: "9.7%",
  rule: { price: 1999 },
  rivals: [],
  falls: [],
  curve: [],
  split: { delivery: 285, fees: 320, tax: 333 },
  lines: [
    { kind: "price", name: "item price", amount: 1999, part: "" },
    { kind: "fee", name: "commission", amount: -320, part: "fees" },
  ],
};

const answers = (d: Docket) => ({
  "GET /api/v1/products/7": d,
  "GET /api/v1/listings/3/price-lines": explained,
  "GET /api/v1/listings/4/price-lines": { ...explained, listing_id: 4, lines: [], why: "its fees aren't known" },
  "GET /api/v1/listings/3/variants": [],
  "GET /api/v1/listings/4/variants": [],
});

const open = (d = docket(), at = "/products/7") => {
  const api = server(answers(d));
  show(<DocketPage />, at, "/products/:id");
  return api;
};

describe("a product", () => {
  it("says side by side what its supplier, we and the market say, and what doesn't agree", async () => {
    open();
    const table = await screen.findByRole("table", { name: "What the supplier, we and the market say of it" });
    const price = within(table).getByRole("rowheader", { name: "Price" }).closest("tr") as HTMLElement;
    expect(within(price).getByText("9.00 GBP")).toBeTruthy();
    expect(within(price).getByText("19.99 GBP")).toBeTruthy();
    expect(within(price).getByText("18.50 GBP")).toBeTruthy();
    expect(within(price).getByText("somebody went under us")).toBeTruthy();
  });

  it("names who sells it, and what is not there any more", async () => {
    open();
    const who = await screen.findByRole("region", { name: "Who sells it" });
    expect(within(who).getByText("taken now")).toBeTruthy();
    expect(within(who).getByText("12 there")).toBeTruthy();
    expect(within(who).getByText("gone")).toBeTruthy();
  });

  it("opens its price, and what another one would leave changes nothing", async () => {
    const api = open();
    const slider = await screen.findByRole("slider", { name: "Price on Quaymarket GB, GBP" });
    expect(screen.getByText("left for you")).toBeTruthy();
    fireEvent.keyDown(slider, { key: "ArrowRight" });
    expect((await screen.findByRole("status")).textContent).toContain("Nothing is changed");
    expect(screen.getByRole("status").textContent).toContain("20.00");
    expect(api.writes()).toEqual([]);
    fireEvent.click(screen.getByText("As it is"));
    await waitFor(() => expect(screen.queryByRole("status")).toBeNull());
  });

  it("turns to another of its listings by key, and round at the end", async () => {
    const api = open();
    await screen.findByRole("slider");
    fireEvent.keyDown(document.body, { key: "ArrowLeft" });
    await waitFor(() =>
      expect(
        api.asked.filter((a) => a.query?.startsWith("?listing=") && a.what.includes("/products/")).at(-1)?.query,
      ).toBe("?listing=4"),
    );
  });

  it("goes by key to what waits for it", async () => {
    open();
    await screen.findByRole("slider");
    expect(screen.getByRole("button", { name: /2 changes wait/ })).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "w" });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("offers to prepare what is written by us, and nothing else", async () => {
    open();
    await screen.findByRole("slider");
    expect(screen.queryByRole("button", { name: /Prepare it/ })).toBeNull();
  });

  it("can be prepared and seen as a buyer does where it is written by us", async () => {
    open(docket({ listing_id: 4, site: "Lantern Row GB" }));
    expect(await screen.findByRole("button", { name: /Prepare it/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: /Buyer's view/ })).toBeTruthy();
    expect(await screen.findByText(/its fees aren't known/)).toBeTruthy();
  });

  it("that no site has says where it is listed from", async () => {
    open(docket({ listing_id: 0, listings: [], site: "", waiting: 0 }));
    expect(await screen.findByText("Listed nowhere")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Prepare" }).getAttribute("href")).toBe("/prepare?tab=add");
    expect(screen.queryByRole("button", { name: /wait/ })).toBeNull();
  });
});

const listing = {
  id: 3,
  product_id: 7,
  site: "Quaymarket GB",
  site_id: 1,
  sku: "K-7",
  gtin: "9520000000073",
  ref: "FW-7",
  title: "Skarholt dry sack",
  currency: "GBP",
  price: 1999,
  landed: 900,
  profit: 161,
  state: "live",
  quantity: 9,
  stock: 12,
  picture: "",
  reasons: [],
};

const list = (rows: unknown[]) => ({
  "GET /api/v1/listings": { rows, total: rows.length, next: "", more: false },
  "GET /api/v1/counts": { products: 400, supplier_products: 1600, live: 1, refused: 3, unknown: 0 },
  "GET /api/v1/sites": [{ id: 1, name: "Quaymarket GB", lists: true, currency: "GBP" }],
  "GET /api/v1/sources": [
    { supplier_id: 3, supplier: "Fernhollow Wholesale" },
    { supplier_id: 4, supplier: "Tidewrack Clearance" },
  ],
});

describe("products", () => {
  it("are counted by state, and none is offered that never is", async () => {
    server(list([listing]));
    show(<Products />, "/products");
    expect(await screen.findByText("400 products from 1600 supplier products")).toBeTruthy();
    expect(screen.getByRole("tab", { name: /Refused/ }).textContent).toContain("3");
    expect(screen.queryByRole("tab", { name: /Unknown/ })).toBeNull();
    expect(await screen.findByText("9520000000073")).toBeTruthy();
  });

  it("that were searched for open as a whole, and the tabs keep the words", async () => {
    const api = server(list([listing]));
    show(<Products />, "/products?q=dry", "/products");
    expect(await screen.findByText("1 found for “dry”")).toBeTruthy();
    fireEvent.click(screen.getByRole("tab", { name: /Live/ }));
    await waitFor(() => {
      const query = api.asked.filter((x) => x.what === "GET /api/v1/listings").at(-1)?.query;
      expect(query).toContain("state=live");
      expect(query).toContain("words=dry");
    });
    fireEvent.click(await screen.findByText("9520000000073"));
    expect(await screen.findByText("another screen")).toBeTruthy();
    expect(api.writes()).toEqual([]);
  });

  it("are narrowed to a supplier, and what is typed is kept however late the address comes", async () => {
    const api = server(list([listing]));
    show(<Products />, "/products", "/products");
    fireEvent.change(await screen.findByLabelText("Supplier", {}, { timeout: 8000 }), { target: { value: "4" } });
    await waitFor(() => expect(api.asked.at(-1)?.query).toContain("supplier=4"));
  });
  it("that aren't found say where was looked", async () => {
    server(list([]));
    show(<Products />, "/products?q=kettle", "/products");
    expect(await screen.findByText(/titles, SKUs, product numbers and suppliers' refs/)).toBeTruthy();
  });
});
