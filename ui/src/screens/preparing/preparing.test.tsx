import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem, type Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Editor } from ".";
import { askedWords, fromWords, nameOf, sayable } from "./words";

type Field = Schemas["SaidField"];

const field = (f: Partial<Field>): Field => ({
  field: "attributes.colour",
  value: "",
  sent: "",
  from: "",
  name: "",
  without: "",
  need: "",
  code: "",
  level: "",
  words: "",
  ...f,
});

const listing = (more: Partial<Schemas["PreparedView"]> = {}): Schemas["PreparedView"] => ({
  id: 7,
  version: 1,
  sku: "TW-1",
  product: "Tarnwick mug",
  supplier: "Fernhollow Wholesale",
  supplier_title: "MUG TARNWICK",
  site_id: 4,
  site: "Lantern Row GB",
  state: "incomplete",
  currency: "GBP",
  price: 899,
  profit: 120,
  why: "",
  category: "cooking",
  categories: [{ ref: "cooking", path: "Outdoor › Cooking" }],
  fixed: false,
  asked_at: "2026-03-03T08:00:00Z",
  title: "Tarnwick mug",
  typed: false,
  length: 12,
  limit: 80,
  counts: "characters",
  parts: [
    { name: "brand", text: "Tarnwick", left_out: false },
    { name: "series", text: "Fell", left_out: true },
  ],
  fields: [
    field({ field: "title", need: "needed" }),
    field({
      need: "needed",
      value: "moss",
      from: "supplier",
      name: "Fernhollow Wholesale",
      code: "not one of",
      level: "stops",
      words: "colour is none of the place's values",
      asked: { ref: "colour", kind: "choice", values: ["Moss green", "Sand"] },
    }),
    field({ field: "words", value: "mug, tea", from: "person", name: "Ada", without: "" }),
  ],
  terms: "",
  new_entry: false,
  shown: {},
  pictures_changed: null,
  tags: [],
  proposals: [],
  changed: [],
  untold: false,
  brand_asked: "",
  texts: [],
  terms_own: false,
  group: "",
  parts_own: false,
  more_parts: [],
  all_terms: [],
  pictures: [
    {
      original: "d",
      recipe: {},
      text: "",
      seen: "",
      small: false,
      digest: "",
      width: 300,
      height: 200,
      kind: "png",
      bytes: 1,
      words: "it is too small",
    },
  ],
  other: ["pictures are too few"],
  needed: [2, 4],
  helps: [0, 1],
  stops: 2,
  learnt: [],
  buyers: "<p>A <b>good</b> mug</p>",
  markup: true,
  proposed: ["tea", "camp"],
  ...more,
});

const open = (answers: Record<string, unknown> = {}) => {
  const api = server({ "GET /api/v1/preparations/7": listing(), ...answers });
  show(<Editor />, "/prepare/7", "/prepare/:id");
  return api;
};

describe("one listing of one's own", () => {
  it("says of each value where it comes from, and what is wrong with it", async () => {
    open();
    const line = (await screen.findByLabelText(/^Colour/)).closest("[role=listitem]") as HTMLElement;
    expect(within(line).getByText("Fernhollow Wholesale")).toBeTruthy();
    expect(line.textContent).toContain("colour is none of the place's values · Moss green / Sand");
    expect(screen.getByText(/left out, too long/)).toBeTruthy();
    expect(screen.getByText("it is too small")).toBeTruthy();
    expect(screen.getByText("pictures are too few")).toBeTruthy();
  });
  it("shows what it would be while it is typed, and keeps it by Enter", async () => {
    const sand = listing({ stops: 0, fields: [field({ value: "sand", sent: "Sand", need: "needed" })] });
    const api = open({ "POST /api/v1/preparations/7/check": sand, "PUT /api/v1/preparations/7": sand });
    const box = await screen.findByLabelText(/^Colour/);
    fireEvent.change(box, { target: { value: "sand" } });
    expect(await screen.findByText("sent as Sand")).toBeTruthy();
    expect(api.writes().filter((w) => w.what === "PUT /api/v1/preparations/7")).toEqual([]);
    fireEvent.keyDown(box, { key: "Enter" });
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "PUT /api/v1/preparations/7",
        body: { say: [{ field: "attributes.colour", values: ["sand"] }] },
      }),
    );
  });
  it("drops what was typed by Esc, and says nothing", async () => {
    const api = open({ "POST /api/v1/preparations/7/check": listing() });
    const box = (await screen.findByLabelText(/^Colour/)) as HTMLInputElement;
    box.focus();
    fireEvent.change(box, { target: { value: "x" } });
    fireEvent.keyDown(box, { key: "Escape" });
    await waitFor(() => expect(box.value).toBe("moss"));
    expect(api.writes().filter((w) => w.what === "PUT /api/v1/preparations/7")).toEqual([]);
  });
  it("keeps what was typed where the server refuses it", async () => {
    open({
      "POST /api/v1/preparations/7/check": listing(),
      "PUT /api/v1/preparations/7": new Problem("a value has at most 20000 characters", 400),
    });
    const box = (await screen.findByLabelText(/^Colour/)) as HTMLInputElement;
    fireEvent.change(box, { target: { value: "y" } });
    fireEvent.keyDown(box, { key: "Enter" });
    expect((await screen.findByRole("alert")).textContent).toContain("at most 20000");
    expect(box.value).toBe("y");
  });
  it("takes a person's word back, and parts search words at commas", async () => {
    const api = open({ "PUT /api/v1/preparations/7": listing(), "POST /api/v1/preparations/7/check": listing() });
    fireEvent.click(await screen.findByRole("button", { name: "Add camp" }));
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "PUT /api/v1/preparations/7",
        body: { say: [{ field: "words", values: ["mug", "tea", "camp"] }] },
      }),
    );
    fireEvent.click(await screen.findByRole("button", { name: "Take mine back" }));
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "PUT /api/v1/preparations/7",
        body: { say: [{ field: "words", values: [""] }] },
      }),
    );
    const words = screen.getByLabelText(/^Search words/);
    fireEvent.change(words, { target: { value: "mug, tea ,camp" } });
    fireEvent.blur(words);
    await waitFor(() =>
      expect(api.writes()).toContainEqual({
        what: "PUT /api/v1/preparations/7",
        body: { say: [{ field: "words", values: ["mug", "tea", "camp"] }] },
      }),
    );
  });
});

describe("a listing made by mistake", () => {
  it("is taken off after a second word, and not before", async () => {
    const api = open({ "POST /api/v1/preparations/unlist": { count: 1 } });
    fireEvent.click(await screen.findByRole("button", { name: "Take it off Lantern Row GB" }));
    expect(api.writes()).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "No" }));
    fireEvent.click(screen.getByRole("button", { name: "Take it off Lantern Row GB" }));
    fireEvent.click(screen.getByRole("button", { name: "Yes, take it off" }));
    expect(await screen.findByText("another screen")).toBeTruthy();
    expect(api.writes()).toEqual([{ what: "POST /api/v1/preparations/unlist", body: { ids: [7] } }]);
  });
  it("sends what one on sale is to say otherwise", async () => {
    const api = open({
      "GET /api/v1/preparations/7": listing({ fixed: true, changed: ["title", "attributes.colour"] }),
      "POST /api/v1/submissions/content": { send_outs: [9], lines: 1, reworked: 0, runs: [] },
    });
    await screen.findByText(/something else there: title, colour/);
    fireEvent.click(screen.getByText("Send what differs"));
    await waitFor(() =>
      expect(api.writes()).toContainEqual({ what: "POST /api/v1/submissions/content", body: { listings: [7] } }),
    );
  });
});

describe("as buyers see it", () => {
  it("draws the description with its tags, and runs nothing of it", async () => {
    server({
      "GET /api/v1/preparations/7": listing({
        buyers: '<p>A <b>good</b> mug<img src="x" onerror="alert(1)"><script>alert(2)</script></p>',
      }),
    });
    show(<Editor />, "/prepare/7", "/prepare/:id");
    fireEvent.keyDown(await screen.findByText("Lantern Row GB"), { key: "b" });
    const view = await screen.findByLabelText("As buyers see it", { selector: "section" });
    expect(view.querySelector("b")?.textContent).toBe("good");
    expect(view.querySelector("script, img[onerror]")).toBeNull();
    expect(view.textContent).toContain("8.99 GBP");
    expect(view.textContent).not.toContain("moss"); // which the place would refuse
    fireEvent.click(screen.getByRole("button", { name: "As on a telephone" }));
    expect(screen.getByRole("button", { name: "As on a wide screen" })).toBeTruthy();
  });
  it("shows a plain description as text", async () => {
    server({ "GET /api/v1/preparations/7": listing({ buyers: "a <b> that is none", markup: false }) });
    show(<Editor />, "/prepare/7?as=buyer", "/prepare/:id");
    expect(await screen.findByText("a <b> that is none")).toBeTruthy();
  });
});

describe("words of what is asked", () => {
  it("name fields and where values come from", () => {
    expect(nameOf("attributes.suits_hob")).toBe("Suits hob");
    expect(nameOf("package.weight")).toBe("Packed weight, g");
    expect(fromWords(field({ from: "our word", name: "moss" }))).toBe("your word for moss");
    expect(sayable("pictures")).toBe(false);
    expect(sayable("attributes.x")).toBe(true);
  });
  it("say what a place wants", () => {
    expect(askedWords(field({ asked: { ref: "c", kind: "number", unit: "ml", least: "5", most: "50" } }))).toBe(
      "a number in ml, 5 to 50",
    );
    expect(
      askedWords(field({ asked: { ref: "c", kind: "choices", values: ["a", "b", "c", "d", "e"], at_most: 2 } })),
    ).toBe("one of 5, at most 2");
  });
});
