import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../parts/testing";
import { Places } from ".";

const place = (id: number, more: object = {}) => ({
  id,
  place: "Gullery Fair",
  name: `Gullery Fair ${id}`,
  code: "IE",
  currency: "EUR",
  kind: "catalogue",
  gateway: false,
  lists: true,
  can: ["look entries up"],
  missing: [{ words: "its catalogue", link: "" }],
  entries: 0,
  categories: 0,
  listings: 0,
  live: 0,
  untied: 2,
  waiting: 0,
  read: null,
  files: [],
  ...more,
});

const file = (more: object = {}) => ({
  id: 4,
  site_id: 1,
  kind: "listings",
  name: "report.csv",
  state: "looked",
  columns: [
    { name: "our code", as: "SKU", samples: ["OLD-1"] },
    { name: "asked", as: "", samples: ["4.50"] },
  ],
  choices: ["SKU", "price"],
  missing: ["price"],
  rows: 12,
  new: 0,
  changed: 0,
  same: 0,
  aside: 0,
  untied: 0,
  error: "",
  ...more,
});

const open = (at: string, places: object[], answers: Record<string, unknown> = {}) => {
  const api = server({ "GET /api/v1/places": places, ...answers });
  show(<Places />, at, "/places");
  return api;
};

describe("places", () => {
  it("says of each what is missing", async () => {
    open("/places", [place(1), place(2, { missing: [], gateway: true })]);
    expect(await screen.findByText("its catalogue")).toBeTruthy();
    expect(screen.getByText("nothing")).toBeTruthy();
    expect(screen.getByText("its files")).toBeTruthy();
  });
  it("makes one from nothing", async () => {
    const api = open("/places", [], { "POST /api/v1/places": { id: 3 } });
    await screen.findByText("No place yet");
    fireEvent.keyDown(window, { key: "m" });
    fireEvent.change(await screen.findByLabelText("What it is called"), { target: { value: "Gullery Fair" } });
    fireEvent.change(screen.getByLabelText("Country, two letters"), { target: { value: "ie" } });
    fireEvent.change(screen.getByLabelText("Currency"), { target: { value: "eur" } });
    fireEvent.change(screen.getByLabelText("It takes of every sale, in per cent"), { target: { value: "10%" } });
    fireEvent.submit(screen.getByLabelText("Make a place"));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        {
          what: "POST /api/v1/places",
          body: expect.objectContaining({ name: "Gullery Fair", country: "IE", currency: "EUR", commission: "10%" }),
        },
      ]),
    );
  });
  it("reads a file once what is needed is chosen", async () => {
    const api = open("/places?open=1", [place(1, { files: [file()] })]);
    const go = (await screen.findByText("Choose which column is the price")) as HTMLButtonElement;
    expect(go.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("asked is"), { target: { value: "price" } });
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "PUT /api/v1/site-files/4/columns", body: { columns: { "our code": "SKU", asked: "price" } } },
      ]),
    );
  });
  it("says what a file came to", async () => {
    open("/places?open=1", [place(1, { files: [file({ state: "taken", new: 9, same: 1, untied: 2 })] })]);
    expect(await screen.findByText(/12 rows: 9 taken over, 0 changed, 1 the same, 2 tied to nothing/)).toBeTruthy();
    expect(screen.getByText("Look at 2 untied")).toBeTruthy();
  });
  it("takes over what a gateway says is listed", async () => {
    const api = open("/places?open=1", [place(1, { gateway: true })]);
    fireEvent.click(await screen.findByText("Take over what is listed"));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/sites/1/listings/take-over" }]));
  });

  it("makes a shop of one's own, and has it look as it is to", async () => {
    const shop = { version: 1, address: "http://127.0.0.1:8650", name: "Kit", colour: "#SHOP01", ground: "#SHOP02" };
    const api = open("/places?open=7", [place(7, { kind: "shop", gateway: true, missing: [] })], {
      "GET /api/v1/shop": shop,
      "PUT /api/v1/shop": { ok: true },
    });
    expect((await screen.findByText("http://127.0.0.1:8650")).closest("a")?.getAttribute("href")).toBe(shop.address);
    fireEvent.change(screen.getByLabelText("Its name"), { target: { value: "Salt & Kit" } });
    fireEvent.click(screen.getByText("Have it look so"));
    await waitFor(() =>
      expect(api.writes()[0]).toEqual({
        what: "PUT /api/v1/shop",
        body: {
          name: "Salt & Kit",
          motto: "",
          colour: "#SHOP01",
          ground: "#SHOP02",
          picture: "",
          about: "",
          terms: "",
        },
      }),
    );
    expect(screen.queryByText("Take over what is listed")).toBeNull();
    fireEvent.click(screen.getByText(/Make a place/));
    fireEvent.change(await screen.findByLabelText("How it is served"), { target: { value: "shop" } });
    fireEvent.click(screen.getByText("Make it"));
    await waitFor(() => expect(api.writes()[1].body).toMatchObject({ shop: true, by_hand: false }));
  });
});
