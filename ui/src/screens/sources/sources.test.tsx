import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { stepped } from "../../parts/charts";
import { server, show } from "../../parts/testing";
import { AfterReading } from "./after";
import { rechosen } from "./before";
import { ItemPanel } from "./item";
import { unpairs } from "./settings";
import { Sources } from "./sources";
import { size } from "./words";

describe("the mapping of columns", () => {
  const all = [
    { name: "Price", field: "cost" },
    { name: "Dealer", field: "" },
    { name: "Photo", field: "pictures" },
    { name: "Photo 2", field: "pictures" },
  ];
  it("moves a field over from the column that had it", () => {
    expect(rechosen(all, {}, "Dealer", "cost")).toEqual({ Dealer: "cost", Price: "" });
  });
  it("lets several columns be pictures, and one be let go", () => {
    expect(rechosen(all, {}, "Dealer", "pictures")).toEqual({ Dealer: "pictures" });
    expect(rechosen(all, { Dealer: "cost", Price: "" }, "Dealer", "")).toEqual({ Dealer: "", Price: "" });
  });
});

describe("settings", () => {
  it("reads words and what they mean, one line or many", () => {
    expect(unpairs("on the way = 0, plenty= some\ngone for good =ended,, nonsense")).toEqual({
      "on the way": "0",
      plenty: "some",
      "gone for good": "ended",
    });
    expect(unpairs("")).toEqual({});
  });
  it("writes sizes as people do", () => {
    expect(size(12)).toBe("1 KiB");
    expect(size(248_710)).toBe("243 KiB");
    expect(size(210_215_596)).toBe("200.5 MiB");
  });
});

const feed = (id: number, more: object = {}) => ({
  id,
  state: "taken",
  rows: 1157,
  new: 0,
  changed: 221,
  same: 936,
  set_aside: 0,
  gone: 2,
  warnings: 0,
  held_for: [],
  error: "",
  received: `2026-03-0${Math.min(id, 3)}T07:00:00Z`,
  ...more,
});

const source = (id: number, name: string, more: object = {}) => ({
  id,
  name,
  supplier: name,
  kind: "address",
  address: `http://suppliers.example/${id}`,
  currency: "GBP",
  mode: "full",
  every: 15,
  taken: "2026-03-03T07:00:00Z",
  same: null,
  silent: false,
  feeds: [],
  ...more,
});

describe("the sources", () => {
  const held = source(2, "Fernhollow", { feeds: [feed(5, { state: "held", rows: 400 }), feed(3), feed(2), feed(1)] });
  const api = (list: object[]) => server({ "GET /api/v1/sources": list, "POST /api/v1/sources/1/fetch": { id: 1 } });

  it("puts the one with a feed to look at first, and its key opens that", async () => {
    api([source(1, "Brindlewick"), held]);
    show(<Sources />, "/sources", "/sources");
    await screen.findByText("Fernhollow");
    expect(screen.getAllByRole("heading", { level: 2 }).map((h) => h.textContent)).toEqual([
      "Fernhollow",
      "Brindlewick",
    ]);
    fireEvent.keyDown(window, { key: "." });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("shows the newest feeds, and those before them when they are asked for", async () => {
    api([held]);
    show(<Sources />);
    const rows = async () =>
      (await screen.findByRole("table", { name: "Feeds of Fernhollow" })).querySelectorAll("[role=row]").length - 1;
    expect(await rows()).toBe(3);
    fireEvent.click(screen.getByRole("button", { name: "The 1 before them" }));
    expect(await rows()).toBe(4);
    expect(screen.getByText("held")).toBeTruthy();
    expect(screen.getByRole("img", { name: /Rows of the last 4 feeds.*feed 5 400/ })).toBeTruthy();
  });

  it("says what is silent, and fetches once when pressed", async () => {
    const api1 = api([source(1, "Tidewrack", { silent: true, feeds: [feed(1)] })]);
    show(<Sources />);
    expect(await screen.findByText("silent: its stock counts as unknown")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Fetch now" }));
    await waitFor(() => expect(api1.writes()).toEqual([{ what: "POST /api/v1/sources/1/fetch" }]));
  });

  it("shows a failed feed's reason, and no figures that it hasn't", async () => {
    api([source(1, "Tidewrack", { feeds: [feed(1, { state: "failed", error: "the address answered 503" })] })]);
    show(<Sources />);
    expect(await screen.findByText("the address answered 503")).toBeTruthy();
    expect(screen.getAllByText("–").length).toBe(6);
  });
});

describe("after a feed", () => {
  const counts = { match_several: 9, match_none: 4, unpriced: 0, ready: 1058, refused: 0, plan_lines: 1 };
  it("says what waits next, the first by key", async () => {
    server({ "GET /api/v1/counts": counts });
    show(<AfterReading feed={feed(1) as never} />, "/sources/feeds/1", "/sources/feeds/1");
    expect(await screen.findByRole("button", { name: /13 wait on Match/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: "1058 ready to send" })).toBeTruthy();
    expect(screen.getByRole("button", { name: "1 change to look at" })).toBeTruthy();
    expect(screen.queryByText(/no price/)).toBeNull();
    fireEvent.keyDown(window, { key: "." });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("says why it is held, and takes it only on somebody's word", async () => {
    const api = server({ "GET /api/v1/counts": counts });
    const words = "400 rows, where the last feed had 1157: under 70 %";
    show(
      <AfterReading feed={feed(7, { state: "held", source_id: 2, held_for: [{ guard: "rows", words }] }) as never} />,
    );
    expect(screen.getByText(words)).toBeTruthy();
    expect(screen.getByText("would be gone since the last")).toBeTruthy();
    expect(screen.queryByText(/wait on Match/)).toBeNull();
    expect(api.writes()).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Take it this once" }));
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/feeds/7/take", body: { source_id: 2, once: true } }]),
    );
  });
});

describe("one supplier product", () => {
  it("draws how its cost moved through time, and says it in words", async () => {
    const at = (day: number) => `2026-02-${day}T07:00:00Z`;
    server({
      "GET /api/v1/demo": { now: "2026-03-03T08:40:00Z" },
      "GET /api/v1/supplier-products/36": {
        id: 36,
        title: "kettle",
        supplier: "Fernhollow",
        ref: "FW-1",
        gone: false,
        sites: "live on Quaymarket GB, paused on Quaymarket IE",
        cost: 1504,
        currency: "GBP",
        stock: 15,
        stock_state: "known",
        first: "2026-01-02T07:00:00Z",
        pictures: [],
        fields: [{ name: "brand", value: "Brackenby" }],
        history: [
          { at: at(10), feed_id: 1, field: "cost", before: "14.19", after: "14.80", was: 1419, is: 1480 },
          { at: at(18), feed_id: 2, field: "cost", before: "14.80", after: "15.04", was: 1480, is: 1504 },
        ],
      },
    });
    show(<ItemPanel id={36} onClose={() => {}} />);
    expect(await screen.findByRole("img", { name: "Cost, GBP: 14.19, 14.80, 15.04" })).toBeTruthy();
    expect(screen.getByText("2 Jan")).toBeTruthy();
    expect(await screen.findByText("3 Mar")).toBeTruthy();
    expect(screen.getByText("has not moved since 2 Jan 07:00")).toBeTruthy();
    expect(screen.getByText("paused on Quaymarket IE")).toBeTruthy();
  });

  it("puts two figures on one line of time", () => {
    const p = (day: number, value: number) => ({ at: `2026-03-0${day}T00:00:00Z`, value });
    expect(stepped([p(1, 10), p(3, 12)], [p(2, 5)], p(4, 0).at).map((x) => [x.value, x.second])).toEqual([
      [10, null],
      [10, 5],
      [12, 5],
      [12, 5],
    ]);
  });
});
