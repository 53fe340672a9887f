import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem, type Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Add } from "./add";
import { Asked } from "./asked";
import { Make } from "./make";

const clock = { now: "2026-03-03T08:40:00Z", speed: 0 };

const site = (id: number, name: string, kind: string) =>
  ({ id, name, kind, lists: true, currency: "GBP" }) as Schemas["SiteView"];

const lantern = site(4, "Lantern Row GB", "own listings");
const quay = site(1, "Quaymarket GB", "catalogue");

const categories = [
  { ref: "cooking", name: "Cooking" },
  { ref: "camping", name: "Camping" },
];

describe("what a site has no listing of yet", () => {
  const rows = [
    { product_id: 3, title: "Brass kettle", sku: "K-3", brand: "", category: "cooking", stock: 4, picture: "" },
    { product_id: 5, title: "Down quilt", sku: "K-5", brand: "Tarnwick", category: "", stock: 9, picture: "" },
  ];
  const open = (answers: Record<string, unknown> = {}) => {
    const api = server({
      "GET /api/v1/sites/4/listable-products": { rows, total: 2, next: "", more: false },
      "GET /api/v1/sites/4/categories": categories,
      "POST /api/v1/sites/4/listings": { id: 1 },
      ...answers,
    });
    show(<Add sites={[lantern]} site={0} />, "/prepare?tab=add", "/prepare");
    return api;
  };

  it("says where each would go, and is listed by key in the category that was chosen", async () => {
    const api = open();
    const row = async (title: string) => {
      await screen.findByText(title);
      return screen.getAllByRole("row").find((r) => r.textContent?.includes(title)) as HTMLElement;
    };
    expect(within(await row("Brass kettle")).getByText("Cooking")).toBeTruthy();
    expect(within(await row("Brass kettle")).getByText("none")).toBeTruthy();
    expect(within(await row("Down quilt")).getByText("choose one")).toBeTruthy();
    expect((screen.getByText(/Choose what to list/).closest("button") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.keyDown(document.body, { key: "." });
    expect(api.writes()).toEqual([]);
    fireEvent.keyDown(document.body, { key: "a" });
    fireEvent.change(screen.getByLabelText("Category"), { target: { value: "camping" } });
    expect(await screen.findByText(/List 2 on Lantern Row GB/)).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "." });
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/sites/4/listings", body: { products: [3, 5], category: "camping" } },
      ]),
    );
  });

  it("leaves the category to what is known where none is chosen, and says what is refused", async () => {
    const api = open({ "POST /api/v1/sites/4/listings": new Problem("the site takes no such thing", 422) });
    await screen.findByText("Down quilt");
    fireEvent.click(screen.getAllByRole("checkbox")[1]);
    fireEvent.click(screen.getByText(/List 1 on/));
    expect(await screen.findByText("the site takes no such thing")).toBeTruthy();
    expect(api.writes()[0].body).toEqual({ products: [5] });
    expect(screen.getByText(/List 1 on/)).toBeTruthy(); // what was chosen is chosen still
  });

  it("is found by words", async () => {
    const api = open();
    await screen.findByText("Down quilt");
    fireEvent.change(screen.getByLabelText("Words in it"), { target: { value: "quilt" } });
    await waitFor(() =>
      expect(api.asked.filter((a) => a.what.endsWith("/listable-products")).at(-1)?.query).toContain("words=quilt"),
    );
  });
});

describe("what a category asks for", () => {
  const demand = (category: string, more: object) => ({
    category,
    path: `Outdoor › ${category}`,
    needed: 3,
    attributes: 12,
    listings: 40,
    origin: "gateway",
    read_at: "2026-03-03T06:00:00Z",
    changes: [],
    needs: '{"title":{"limit":80}}',
    ...more,
  });
  const open = (answers: Record<string, unknown> = {}) => {
    const api = server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/sites/4/requirements": [
        demand("cooking", { changes: ["colour is needed now"] }),
        demand("camping", { origin: "person" }),
      ],
      "GET /api/v1/sites/4/categories": [...categories, { ref: "light", name: "Light" }],
      "GET /api/v1/sites/4/value-mappings": [],
      "PUT /api/v1/sites/4/requirements": { done: true },
      ...answers,
    });
    show(<Asked sites={[lantern]} site={4} />);
    return api;
  };

  it("says what changed in it, and who wrote it down", async () => {
    open();
    const cooking = (await screen.findByText("Outdoor › cooking")).closest("button") as HTMLElement;
    expect(within(cooking).getByText("changed: colour is needed now")).toBeTruthy();
    expect(within(cooking).getByText("read 06:00")).toBeTruthy();
    const camping = screen.getByText("Outdoor › camping").closest("button") as HTMLElement;
    expect(within(camping).getByText("written down")).toBeTruthy();
    expect(within(camping).getByText("as before")).toBeTruthy();
  });

  it("is written otherwise by hand, and what is no JSON is said and stays", async () => {
    const api = open({ "PUT /api/v1/sites/4/requirements": new Problem("what is asked for is no JSON: line 1", 422) });
    fireEvent.click(await screen.findByText("Outdoor › cooking"));
    const text = (await screen.findByLabelText("What is asked for, JSON")) as HTMLTextAreaElement;
    expect(JSON.parse(text.value)).toEqual({ title: { limit: 80 } });
    fireEvent.change(text, { target: { value: '{"title":' } });
    fireEvent.click(screen.getByText("Keep what I wrote"));
    expect(await screen.findByText("what is asked for is no JSON: line 1")).toBeTruthy();
    expect(text.value).toBe('{"title":');
    expect(api.writes()[0].body).toEqual({ category: "cooking", needs: '{"title":' });
  });

  it("of which nothing was read yet can be written down too", async () => {
    const api = open();
    const choice = await screen.findByLabelText(/Write down what another category asks for/);
    fireEvent.change(choice, { target: { value: "light" } });
    fireEvent.click(await screen.findByText("Keep what I wrote"));
    await waitFor(() => expect(api.writes()).toHaveLength(1));
    expect(api.writes()[0].body).toMatchObject({ category: "light" });
    expect(await screen.findByText(/Kept; the listings there are looked at again/)).toBeTruthy();
  });
});

describe("a product from nothing", () => {
  const open = (answers: Record<string, unknown> = {}, at = "/prepare/new") => {
    const api = server({
      "GET /api/v1/sites": [quay, lantern],
      "GET /api/v1/sites/4/categories": categories,
      "GET /api/v1/supplier-products": [],
      "POST /api/v1/products": { item_id: 12, prepared: [77] },
      ...answers,
    });
    show(<Make />, at, "/prepare/new");
    return api;
  };
  const type = (label: RegExp, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

  it("is made and listed where it is wanted, in one step", async () => {
    const api = open();
    await screen.findByRole("group", { name: "List on" });
    type(/^Title/, "Fell brass kettle 1.4 l");
    type(/^What one costs you/, "12.40");
    type(/^How many there are/, "6");
    type(/^Packed weight/, "850");
    fireEvent.click(screen.getByRole("button", { name: /Lantern Row GB/ }));
    expect(api.writes()).toEqual([]); // choosing where makes nothing yet
    await screen.findByRole("option", { name: "Cooking" });
    fireEvent.change(screen.getByLabelText("Category"), { target: { value: "cooking" } });
    fireEvent.click(await screen.findByText(/Make it and list it on 2 sites/));
    await waitFor(() => expect(api.writes()).toHaveLength(1));
    expect(api.writes()[0]).toMatchObject({
      what: "POST /api/v1/products",
      body: {
        title: "Fell brass kettle 1.4 l",
        cost: "12.40",
        stock: 6,
        weight: 850,
        sites: [1, 4],
        category: "cooking",
      },
    });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("is kept as it was typed where it is refused, with what is wrong at its field", async () => {
    open({ "POST /api/v1/products": new Problem("write the cost as an amount such as 12.40", 422) });
    await screen.findByRole("group", { name: "List on" });
    type(/^What one costs you/, "twelve");
    fireEvent.click(screen.getByText(/^Make it/));
    expect(await screen.findByText("write the cost as an amount such as 12.40")).toBeTruthy();
    expect((screen.getByLabelText(/^What one costs you/) as HTMLInputElement).value).toBe("twelve");
  });

  it("that somebody has already is said by its number, and its words are taken on a person's word", async () => {
    const api = open({
      "GET /api/v1/supplier-products": [
        { id: 40, supplier: "Fernhollow Wholesale", title: "KETTLE BRASS", cost: 1190, currency: "GBP" },
      ],
      "GET /api/v1/sites/1/entries": [{ ref: "Q7-1", title: "Tarnwick brass kettle", brand: "Tarnwick" }],
    });
    await screen.findByRole("group", { name: "List on" });
    type(/^Number/, "952 00");
    expect(api.asked.some((a) => a.what === "GET /api/v1/supplier-products")).toBe(false); // too short to be one
    type(/^Number/, "952 0001 424021");
    expect(await screen.findByText(/Fernhollow Wholesale sells it for 11.90 GBP: KETTLE BRASS/)).toBeTruthy();
    expect((screen.getByLabelText(/^Title/) as HTMLInputElement).value).toBe("");
    fireEvent.click(await screen.findByText("Take its title and brand"));
    expect((screen.getByLabelText(/^Title/) as HTMLInputElement).value).toBe("Tarnwick brass kettle");
    expect((screen.getByLabelText(/^Brand/) as HTMLInputElement).value).toBe("Tarnwick");
  });
});
