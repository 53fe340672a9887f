import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Category } from "./category";
import { OfCategory } from "./defaults/category";
import { Terms } from "./defaults/terms";
import { plain } from "./pictures/choice";
import type { Prepared } from "./queries";
import { Shown } from "./shown";
import { VariantGrid } from "./variants";

const listing = {
  id: 7,
  site_id: 4,
  site: "Lantern Row GB",
  currency: "GBP",
  category: "cooking",
  categories: [{ ref: "cooking", path: "Outdoor › Cooking" }],
};
const l = (more: Partial<Prepared> = {}) => ({ ...listing, ...more }) as Prepared;

describe("a listing's category", () => {
  const found = [
    { ref: "camping", path: "Outdoor › Camping", guess: true, inner: false, fees: 280, left: 410 },
    { ref: "outdoor", path: "Outdoor", guess: false, inner: true, fees: null, left: null },
  ];
  it("says what a sale would cost in each, and puts it there", async () => {
    const api = server({ "GET /api/v1/preparations/7/categories": found });
    show(<Category l={l()} />);
    fireEvent.click(screen.getByText("Another"));
    const one = await screen.findByText(/Outdoor › Camping/);
    expect(one.closest("button")?.textContent).toContain("fees 2.80, left");
    fireEvent.click(screen.getByLabelText("Those below Outdoor"));
    await waitFor(() => expect(api.asked.filter((a) => a.what.endsWith("/categories")).length).toBeGreaterThan(1));
    fireEvent.click(one);
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/preparations/category", body: { ids: [7], category: "camping" } },
      ]),
    );
  });
  it("stays where it is once on sale", () => {
    server({});
    show(<Category l={l({ fixed: true })} />);
    expect(screen.queryByText("Another")).toBeNull();
    expect(screen.getByText("It is on sale: its category stays.")).toBeTruthy();
  });
});

describe("when it is shown", () => {
  it("is set for one or many, and a bad day is said", async () => {
    const api = server({ "POST /api/v1/preparations/visibility": new Problem("it would end before it begins", 422) });
    show(<Shown ids={[7, 8]} how={{}} />);
    fireEvent.change(screen.getByLabelText("How it is shown"), { target: { value: "days" } });
    fireEvent.change(screen.getByLabelText("From"), { target: { value: "2026-04-02" } });
    fireEvent.change(screen.getByLabelText("Until"), { target: { value: "2026-04-01" } });
    fireEvent.click(screen.getByText("Keep it for 2"));
    expect((await screen.findByRole("alert")).textContent).toContain("it would end before it begins");
    expect(api.writes()[0].body).toEqual({ ids: [7, 8], shown: { from: "2026-04-02", until: "2026-04-01" } });
  });
});

describe("selling terms", () => {
  const site = { id: 4, name: "Lantern Row GB", currency: "GBP" } as Parameters<typeof Terms>[0]["site"];
  it("say whom a change touches before it is kept", async () => {
    const touched = { listings: 12, live: 2, ready: 3, lacking: 0, titles: ["Tarnwick mug"] };
    const api = server({ "POST /api/v1/sites/4/selling-terms/check": touched });
    show(
      <Terms
        site={site}
        all={[{ name: "Usual", terms: { condition: "New" }, of: [] }]}
        name="Usual"
        onDone={() => {}}
      />,
    );
    expect(screen.getByText("Keep them").closest("button")?.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Handling days"), { target: { value: "2" } });
    expect(
      (await screen.findByText(/12 listings would say something else; 3 would lack nothing any more/)).textContent,
    ).toContain("2 are on sale, and stay there as they were sent");
    fireEvent.click(screen.getByText("Keep them"));
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "PUT /api/v1/sites/4/selling-terms",
        body: { name: "Usual", terms: { condition: "New", handling_days: 2 } },
      }),
    );
  });
});

describe("what holds in a category", () => {
  it("is kept as it was put together, parts in their order", async () => {
    const api = server({
      "GET /api/v1/sites/4/requirements": [],
      "POST /api/v1/sites/4/defaults/check": { listings: 0, live: 0, ready: 0, lacking: 0, titles: [] },
    });
    show(
      <OfCategory
        site={4}
        of={{ category: "cooking", path: "Cooking", listings: 3, defaults: {} }}
        terms={["Usual"]}
      />,
    );
    fireEvent.click(screen.getByText("Add a part"));
    fireEvent.change(screen.getByLabelText("Words of part 1"), { target: { value: "By {brand}" } });
    fireEvent.click(screen.getByText("Add a part"));
    fireEvent.click(screen.getByLabelText("Part 2 up"));
    fireEvent.change(screen.getByLabelText("Selling terms", { selector: "select" }), { target: { value: "Usual" } });
    await screen.findByText(/No listing would say anything else/);
    fireEvent.click(screen.getByText("Keep it"));
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "PUT /api/v1/sites/4/defaults",
        body: {
          category: "cooking",
          defaults: {
            blocks: [{ kind: "facts" }, { kind: "text", text: "By {brand}" }],
            texts: [],
            terms: "Usual",
            values: {},
            names: {},
          },
        },
      }),
    );
  });
});

describe("variants", () => {
  const row = (id: number, variant: string, colour: string) => ({
    id,
    product: id,
    sku: `S-${id}`,
    variant,
    sold: true,
    state: "ready",
    values: [colour],
    wrong: [""],
    number: "",
    currency: "GBP",
    price: 1000,
    fixed: false,
    profit: 200,
    stock: 5,
    stops: 0,
    picture: "",
  });
  const grid = {
    group: "family-1",
    axes: [{ field: "attributes.colour", values: ["Moss green"] }],
    rows: [row(7, "moss", "Moss green"), row(8, "rust", "rust"), { ...row(0, "sand", ""), product: 9 }],
  };
  it("have their prices changed by a rate, after a look at each", async () => {
    const moves = [{ listing_id: 7, from: 1000, to: 1100, profit: 290, refused: "", currency: "GBP" }];
    const api = server({ "GET /api/v1/preparations/7/variants": grid, "POST /api/v1/listings/reprice/check": moves });
    show(<VariantGrid l={l()} />);
    fireEvent.click(await screen.findByLabelText("Change the price of moss"));
    fireEvent.change(screen.getByLabelText("By how much"), { target: { value: "+10%" } });
    expect(await screen.findByText("11.00")).toBeTruthy();
    const fix = screen.getByText("Fix 1 price").closest("button") as HTMLButtonElement;
    await waitFor(() => expect(fix.disabled).toBe(false));
    fireEvent.click(fix);
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "POST /api/v1/listings/reprice",
        body: { listings: [7], by: "+10%" },
      }),
    );
  });
  it("are filled down, left out, and listed where they aren't yet", async () => {
    const api = server({ "GET /api/v1/preparations/7/variants": grid });
    show(<VariantGrid l={l()} />);
    fireEvent.click((await screen.findAllByLabelText("The same Colour in all below"))[0]);
    fireEvent.click(screen.getByLabelText("Sell rust"));
    fireEvent.click(screen.getByText("List it too"));
    await waitFor(() => expect(api.writes()).toHaveLength(3));
    expect(
      api
        .writes()
        .map((w) => w.what)
        .sort(),
    ).toEqual(["POST /api/v1/sites/4/listings", "PUT /api/v1/listings/8/on-sale", "PUT /api/v1/preparations/8"]);
  });
  it("are none where the supplier tells of none", async () => {
    server({ "GET /api/v1/preparations/7/variants": { group: "", axes: [], rows: [] } });
    show(<VariantGrid l={l()} />);
    expect(await screen.findByText(/it stands by itself/)).toBeTruthy();
  });
});

it("says only what a recipe does", () => {
  expect(plain({ turn: 0, mirror: false, shape: "", side: 600, caption: "", crop: undefined })).toEqual({ side: 600 });
});
