import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Match } from ".";

const match = (id: number, more: object = {}) => ({
  id,
  title: `walking poles ${id}`,
  brand: "Merrowdale",
  gtin: "09520001001116",
  gtin_status: "",
  ref: `FW-${id}`,
  supplier: "Fernhollow Wholesale",
  site: "Quaymarket GB",
  site_id: 1,
  state: "several",
  verdict: "unsure",
  note: "",
  number: "",
  entry: "",
  entry_title: "",
  units_bought: 0,
  units_listed: 0,
  decided_by: "",
  decided_at: "2026-03-03T08:40:00Z",
  cost: 3218,
  currency: "GBP",
  stock: 31,
  stock_state: "known",
  units: 1,
  picture: "",
  ...more,
});

const entry = (ref: string, more: object = {}) => ({
  ref,
  title: `poles ${ref}`,
  brand: "Merrowdale",
  gtin: "09520001001116",
  page: "http://127.0.0.1:1/e/x",
  units: 1,
  units_bought: 1,
  units_listed: 1,
  ours: false,
  by_words: false,
  for: [],
  against: [],
  rows: [],
  picture: "",
  barred: "",
  leave: "",
  category: "poles",
  lowest: null,
  sellers: null,
  ...more,
});

const desk = (candidates: object[], more: object = {}) => ({
  verdict: "unsure",
  note: "",
  entry: "",
  candidates,
  elsewhere: [],
  number: "",
  ...more,
});

const open = (answers: Record<string, unknown> = {}, at = "/match") => {
  const api = server({
    "GET /api/v1/matches": { rows: [match(1), match(2)], total: 2, next: "" },
    "GET /api/v1/matches/1/entries": desk([
      entry("Q1", {
        for: ["same brand"],
        against: ["the number is of a case"],
        rows: [
          { aspect: "volume", ours: "500 ml", theirs: "350 ml", mark: "differs" },
          { aspect: "colour", ours: "", theirs: "red", mark: "one side" },
        ],
      }),
      entry("Q2", { units_listed: 6 }),
      entry("Q3", { units_bought: 0, units_listed: 0 }),
    ]),
    "GET /api/v1/matches/2/entries": desk([]),
    "GET /api/v1/sites": [{ id: 1, name: "Quaymarket GB", lists: true, accepts: false }],
    "POST /api/v1/matches/1/decide": { ok: true, sites: [] },
    "POST /api/v1/matches/2/decide": { ok: true, sites: [] },
    ...answers,
  });
  show(<Match />, at, "/match");
  return api;
};
const press = (key: string) => fireEvent.keyDown(window, { key });
const decided = (body: object) => ({ what: "POST /api/v1/matches/1/decide", body });

describe("the desk", () => {
  it("sets the facts beside each other, and says what differs by a sign", async () => {
    open();
    expect(await screen.findByText("+ same brand")).toBeTruthy();
    expect(screen.getByText("− the number is of a case")).toBeTruthy();
    const row = screen.getByText("500 ml").closest("tr");
    expect(row?.textContent).toContain("≠ 350 ml");
    expect(screen.getByText("red").closest("td")?.textContent).toBe("red");
  });
  it("decides by a key, on the entry that the key stands at", async () => {
    const api = open();
    await screen.findAllByText("Q2");
    press("2");
    await waitFor(() =>
      expect(api.writes()).toEqual([decided({ entry: "Q2", units_bought: 1, units_listed: 6, everywhere: false })]),
    );
  });
  it("asks how many where nobody says, and sends what is typed", async () => {
    const api = open();
    await screen.findAllByText("Q3");
    press("3");
    const bought = await screen.findByLabelText("in the supplier's item");
    fireEvent.change(bought, { target: { value: "12" } });
    fireEvent.submit(bought);
    await waitFor(() =>
      expect(api.writes()).toEqual([decided({ entry: "Q3", units_bought: 12, units_listed: 1, everywhere: false })]),
    );
  });
  it("decides on the other sites too, unless told not to", async () => {
    const api = open({ "GET /api/v1/matches/1/entries": desk([entry("Q1")], { elsewhere: ["Quaymarket IE"] }) });
    expect(((await screen.findByLabelText(/also on Quaymarket IE/)) as HTMLInputElement).checked).toBe(true);
    press("1");
    await waitFor(() =>
      expect(api.writes()).toEqual([decided({ entry: "Q1", units_bought: 1, units_listed: 1, everywhere: true })]),
    );
  });
  it("undoes what was decided last", async () => {
    const api = open();
    await screen.findAllByText("Q1");
    press("n");
    await screen.findByText("gets a new entry");
    press("z");
    await waitFor(() =>
      expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/matches/1/decide", "POST /api/v1/matches/1/undo"]),
    );
  });
  it("offers the same for those that are alike, but for those left out", async () => {
    const one = (id: number) => ({
      id,
      title: `poles alike ${id}`,
      entry: `A${id}`,
      entry_title: "poles",
      against: ["x"],
      units_bought: 6,
      units_listed: 1,
      picture: "",
      supplier: "",
    });
    const api = open({
      "GET /api/v1/matches/1/similar": [one(7), one(8)],
      "POST /api/v1/matches/decide": { done: 1, failed: [] },
    });
    await screen.findAllByText("Q1");
    press("1");
    await screen.findByText("is Q1");
    press("s");
    fireEvent.click(await screen.findByLabelText("poles alike 8"));
    press("Enter");
    await waitFor(() =>
      expect(api.writes().at(-1)).toEqual({
        what: "POST /api/v1/matches/decide",
        body: { choices: [{ id: 7, entry: "A7", units_bought: 6, units_listed: 1 }] },
      }),
    );
  });
  it("doesn't let an entry be chosen that is barred, and notes that leave was asked for", async () => {
    const api = open({ "GET /api/v1/matches/1/entries": desk([entry("Q1", { barred: "needs leave" })]) });
    fireEvent.click(await screen.findByText("Note that we asked for leave"));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "PUT /api/v1/sites/1/approvals", body: { category: "poles", state: "asked" } },
      ]),
    );
    expect(screen.queryByText(/It is this one/)).toBeNull();
  });
  it("puts off, or asks for a new entry, of the one that is open", async () => {
    const api = open();
    await screen.findAllByText("Q1");
    press("ArrowDown");
    await screen.findByText(/has nothing like it/);
    press("n");
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/matches/2/decide", body: { state: "new entry" } }]),
    );
  });
  it("leaves keys alone while other words are typed, and looks them up", async () => {
    const api = open();
    const words = await screen.findByLabelText("Look up by words");
    fireEvent.keyDown(words, { key: "1" });
    fireEvent.change(words, { target: { value: "trail poles" } });
    fireEvent.submit(words);
    await waitFor(() => expect(api.asked.filter((x) => x.what === "GET /api/v1/matches/1/entries")).toHaveLength(2));
    expect(api.writes()).toEqual([]);
  });
  it("says what the server says where somebody else has decided", async () => {
    open({ "POST /api/v1/matches/1/decide": new Problem("this was decided already", 409) });
    await screen.findAllByText("Q1");
    press("1");
    expect(await screen.findByText("this was decided already")).toBeTruthy();
  });
});

describe("certain ones", () => {
  it("are accepted together, but for those left out", async () => {
    const certain = (id: number) =>
      match(id, { state: "certain", entry: `Q${id}`, entry_title: "poles", units_bought: 6, units_listed: 1 });
    const api = open(
      {
        "GET /api/v1/matches": { rows: [certain(1), certain(2)], total: 2, next: "" },
        "POST /api/v1/matches/decide": { done: 2, failed: [] },
      },
      "/match?state=certain",
    );
    await screen.findByText("walking poles 2");
    press("a");
    await waitFor(() =>
      expect(api.writes()).toEqual([
        {
          what: "POST /api/v1/matches/decide",
          body: { choices: [1, 2].map((id) => ({ id, entry: `Q${id}`, units_bought: 6, units_listed: 1 })) },
        },
      ]),
    );
  });
});

describe("own numbers", () => {
  it("says what can't be taken and why", async () => {
    open(
      {
        "GET /api/v1/own-numbers": { free: 3, taken: 1, low: true },
        "POST /api/v1/own-numbers": {
          added: 1,
          known: 0,
          bad: [{ line: 2, number: "12", why: "no number has so few digits" }],
        },
        "GET /api/v1/sku-pattern": { pattern: "{brand:2}-{number:5}", shown: [] },
      },
      "/match?state=own",
    );
    expect(await screen.findByText("running low")).toBeTruthy();
    const box = screen.getByLabelText("Numbers, one a line");
    fireEvent.change(box, { target: { value: "x" } });
    fireEvent.submit(box);
    expect(await screen.findByText("no number has so few digits")).toBeTruthy();
  });
});
