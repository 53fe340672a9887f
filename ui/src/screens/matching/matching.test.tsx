import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Match } from ".";

const match = (id: number) => ({
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
  cost: 3218,
  currency: "GBP",
  stock: 31,
  stock_state: "known",
  units: 1,
});

const entry = (ref: string, more: object = {}) => ({
  ref,
  title: `poles ${ref}`,
  brand: "Merrowdale",
  gtin: "09520001001116",
  page: "http://127.0.0.1:1/e/x",
  units: 1,
  ours: false,
  by_words: false,
  differs: [],
  evidence: [],
  score: 1,
  ...more,
});

const open = (answers: Record<string, unknown> = {}) => {
  const api = server({
    "GET /api/matches": { rows: [match(1), match(2)], total: 2, next: "" },
    "GET /api/matches/1/candidates": [
      entry("Q1", {
        evidence: [
          { for: true, words: "same brand" },
          { for: false, words: "the number is of a case" },
        ],
      }),
      entry("Q2", { gtin: "09520001009999", units: 6 }),
    ],
    "GET /api/matches/2/candidates": [],
    ...answers,
  });
  show(<Match />, "/match", "/match");
  return api;
};

describe("the desk", () => {
  it("says what speaks for an entry and against it, and what differs", async () => {
    open();
    expect(await screen.findByText("for: same brand")).toBeTruthy();
    expect(screen.getByText("against: the number is of a case")).toBeTruthy();
    expect(screen.getByText("other number")).toBeTruthy();
    expect(screen.getByText("6 in one")).toBeTruthy();
  });
  it("decides by a key, on the entry that the key stands at", async () => {
    const api = open();
    await screen.findByText("poles Q2");
    fireEvent.keyDown(window, { key: "2" });
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/matches/1/decide", body: { entry: "Q2" } }]));
  });
  it("puts off, or asks for a new entry, of the one that is open", async () => {
    const api = open();
    await screen.findByText("poles Q1");
    fireEvent.keyDown(window, { key: "ArrowDown" });
    await screen.findByText(/has nothing like it/);
    fireEvent.keyDown(window, { key: "n" });
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/matches/2/decide", body: { state: "new entry" } }]),
    );
  });
  it("leaves keys alone while other words are typed, and looks them up", async () => {
    const api = open();
    const words = await screen.findByLabelText("Look up by words");
    fireEvent.keyDown(words, { key: "1" });
    fireEvent.change(words, { target: { value: "trail poles" } });
    fireEvent.submit(words);
    await waitFor(() => expect(api.asked.filter((x) => x.what === "GET /api/matches/1/candidates")).toHaveLength(2));
    expect(api.writes()).toEqual([]);
  });
  it("says what the server says where somebody else has decided", async () => {
    open({ "POST /api/matches/1/decide": new Problem("this was decided already", 409) });
    await screen.findByText("poles Q1");
    fireEvent.keyDown(window, { key: "1" });
    expect(await screen.findByText("this was decided already")).toBeTruthy();
  });
});
