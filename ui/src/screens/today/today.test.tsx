import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { here } from "../../parts/away";
import { server, show } from "../../parts/testing";
import { Today } from "./today";

const counts = {
  live: 0,
  sent: 0,
  refused: 0,
  unknown: 0,
  match_several: 0,
  match_none: 0,
  supplier_products: 0,
  products: 0,
  ready: 0,
  unpriced: 0,
};
const clock = { now: "2026-03-03T08:40:00Z", demo: true };
const last = { at: "2026-03-02T08:35:00Z", what: "sent", subject: "8 lines", detail: "", actor: "owner" };
const today = {
  items: [
    {
      kind: "zero",
      words: "9 listings offer stock that can't be had",
      more: "",
      action: "Stop selling them",
      link: "/watch",
      stake: 173607,
      currency: "GBP",
    },
    {
      kind: "ready",
      words: "3 listings are ready to go up",
      more: "",
      action: "Send them",
      link: "/send",
      stake: 0,
      currency: "",
    },
    {
      kind: "refused",
      words: "3 listings were refused",
      more: "",
      action: "Read why",
      link: "/send",
      stake: 0,
      currency: "",
    },
  ],
  last: [last],
};

const shop = (c: object, more: Record<string, unknown> = {}) =>
  server({
    "GET /api/v1/counts": { ...counts, ...c },
    "GET /api/v1/demo": clock,
    "GET /api/v1/today": today,
    "GET /api/v1/sites": [],
    "GET /api/v1/sources": [],
    "GET /api/v1/today/comparison": { comes: [], away: [] },
    ...more,
  });

/** done are the steps that are over, and the one that comes next. */
const steps = async () => {
  const list = await screen.findAllByRole("listitem");
  return {
    done: list.filter((l) => l.textContent?.endsWith("done")).length,
    next: list.find((l) => l.getAttribute("aria-current") === "step")?.textContent ?? "",
    all: list.length,
  };
};

describe("an empty shop", () => {
  it("says what to do first, in order, by the key of the main action", async () => {
    shop({});
    show(<Today />, "/", "/");
    const s = await steps();
    expect([s.all, s.done]).toEqual([5, 0]);
    expect(s.next).toContain("Say where you sell");
    expect(screen.queryByText(/ready to go up/)).toBeNull(); // the way says it itself
    expect(screen.getByText(/can't be had/)).toBeTruthy(); // anything else stands below it
    fireEvent.keyDown(window, { key: "." });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("isn't through with where one sells until delivery and sending are said", async () => {
    shop({}, { "GET /api/v1/sites": [{ id: 4, name: "Quaymarket GB", lists: true, terms_unsaid: true }] });
    show(<Today />, "/", "/");
    const s = await steps();
    expect(s.done).toBe(0);
    expect(s.next).toContain("Nothing is priced on Quaymarket GB until you say");
    fireEvent.keyDown(window, { key: "." });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("goes on with what is not done yet", async () => {
    shop(
      { supplier_products: 1194, products: 1058, ready: 1058, match_several: 9, match_none: 4 },
      { "GET /api/v1/sites": [{ id: 1, lists: true }] },
    );
    show(<Today />);
    await waitFor(async () => expect((await steps()).next).toContain("Decide what is not certain"));
    expect((await steps()).done).toBe(3);
    expect(screen.getByRole("button", { name: /Decide 13/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: "Send 1058" })).toBeTruthy();
  });
});

describe("a shop that runs", () => {
  it("says what waits, most money first, and the day of what was done before today", async () => {
    shop({ live: 640 });
    show(<Today />, "/", "/");
    expect(await screen.findByText("9 listings offer stock that can't be had")).toBeTruthy();
    expect(screen.queryByRole("listitem")).toBeNull();
    expect(screen.getByText("3 things wait for you")).toBeTruthy();
    expect(screen.getByText("2 Mar")).toBeTruthy();
    fireEvent.keyDown(window, { key: "." });
    expect(await screen.findByText("another screen")).toBeTruthy();
  });
});

describe("beside what needs a person", () => {
  it("says what comes, and what happened to somebody who was away for an hour", async () => {
    localStorage.clear();
    here("2026-03-03T06:00:00Z");
    here("2026-03-03T06:30:00Z"); // not away
    here("2026-03-03T08:40:00Z");
    const api = shop(
      { live: 640, supplier_products: 1, products: 1 },
      {
        "GET /api/v1/today/comparison": {
          comes: [{ kind: "feed", name: "Fernhollow Wholesale", at: "2026-03-03T08:45:00Z" }],
          away: [{ kind: "lines sold", count: 3, link: "/orders?part=all" }],
        },
      },
    );
    show(<Today />);
    expect(await screen.findByText(/While you were away, since/)).toBeTruthy();
    expect(screen.getByText("lines sold").closest("a")?.getAttribute("href")).toBe("/orders?part=all");
    expect(screen.getByText("Fernhollow Wholesale").parentElement?.textContent).toContain("is looked at");
    expect(api.asked.some((x) => x.what === "GET /api/v1/today/comparison")).toBe(true);
    fireEvent.click(screen.getByText("Seen"));
    await waitFor(() => expect(screen.queryByText(/While you were away/)).toBeNull());
    expect(screen.getByText("Comes next")).toBeTruthy();
  });
});
