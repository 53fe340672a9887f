import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { server, show } from "../../parts/testing";
import { Alike } from "./alike";
import { Desk } from "./desk";
import { Sheets } from "./sheets";

const task = (key: string, more = {}) => ({
  key,
  site: "The Slipway Board",
  sku: `S-${key}`,
  listing_id: 1,
  title: `Mug ${key}`,
  kind: "new",
  fields: [
    { name: "Title", value: `Mug ${key}` },
    { name: "Price", value: "8.99" },
  ],
  pictures: 0,
  page: "",
  since: "2026-03-03T08:00:00Z",
  overdue: false,
  stale: "",
  ...more,
});

describe("the hand desk", () => {
  it("copies field after field, and says that a task is done where it stands", async () => {
    const copied: string[] = [];
    vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText: async (t: string) => copied.push(t) } });
    const api = server({ "GET /api/v1/tasks": [task("a"), task("b")], "POST /api/v1/tasks/complete": { ok: true } });
    show(<Desk />);
    await screen.findByText("8.99");
    fireEvent.keyDown(document.body, { key: "c" });
    await screen.findByText(/✓ copied/);
    fireEvent.keyDown(document.body, { key: "c" });
    await waitFor(() => expect(copied).toEqual(["Mug a", "8.99"]));
    fireEvent.change(screen.getByLabelText("The address of its page there"), {
      target: { value: "https://board.example/1" },
    });
    fireEvent.keyDown(screen.getByLabelText("The address of its page there"), { key: "Enter" });
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/tasks/complete", body: { key: "a", page: "https://board.example/1" } },
      ]),
    );
    vi.unstubAllGlobals();
  });

  it("doesn't take a task as done that may not be done so any more, and says why a place refused another", async () => {
    const api = server({
      "GET /api/v1/tasks": [task("a", { stale: "S-a: only 0 can be now" }), task("b")],
      "POST /api/v1/tasks/complete": { ok: true },
    });
    show(<Desk />);
    await screen.findByText(/only 0 can be now/);
    fireEvent.keyDown(document.body, { key: "." });
    await screen.findByText("I had done it already");
    expect(api.writes()).toEqual([]);
    fireEvent.keyDown(document.body, { key: "ArrowDown" });
    fireEvent.click(await screen.findByText("They don't take it"));
    fireEvent.change(await screen.findByLabelText("Why they don't take it"), { target: { value: "No mugs." } });
    fireEvent.keyDown(screen.getByLabelText("Why they don't take it"), { key: "Enter" });
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/tasks/complete", body: { key: "b", failed: "No mugs." } }]),
    );
  });
});

describe("filled sheets", () => {
  it("keeps one that grew old here, and says what a place asks", async () => {
    const file = {
      id: 3,
      send_out: 9,
      site: "Copperfold NO",
      site_id: 7,
      name: "no-cooking.xlsx",
      category: "cooking",
      rows: 6,
      size: 8000,
      made: "2026-03-03T08:00:00Z",
      fetched: null,
      uploaded: null,
      uploaded_by: "",
      taken: 0,
      confirmed: 0,
      refused: 0,
      open: 6,
      address: "",
      asked: [],
      stale: "1 line of it changed since it was made",
    };
    const sent = server({
      "GET /api/v1/sheets": [
        file,
        {
          ...file,
          id: 5,
          name: "had.xlsx",
          fetched: "2026-03-03T08:10:00Z",
          stale: "2 lines of it changed since it was made",
        },
        {
          ...file,
          id: 4,
          name: "sent.xlsx",
          stale: "",
          uploaded: "2026-03-03T09:00:00Z",
          asked: [{ sku: "B-1", words: "in a box?" }],
        },
      ],
      "GET /api/v1/sites": [],
      "GET /api/v1/price-stock-files": [],
    });
    show(<Sheets />);
    await screen.findByText("1 line of it changed since it was made");
    expect(screen.queryByText("Download")).toBeNull();
    expect(screen.getByText(/in a box/).textContent).toContain("B-1");
    // One that was downloaded may be there: a person says.
    fireEvent.click(screen.getByText("It was"));
    await waitFor(() => expect(sent.writes().map((w) => w.what)).toEqual(["POST /api/v1/sheets/5/mark-uploaded"]));
  });
});

describe("refused alike", () => {
  it("says the same of all, beginning with what mended such before", async () => {
    const api = server({
      "GET /api/v1/refusals": [
        {
          site_id: 4,
          site: "Lantern Row GB",
          field: "attributes.condition",
          words: "Nothing used.",
          listings: [1, 2],
          mendable: true,
          before: ["New"],
        },
        {
          site_id: 1,
          site: "Quaymarket GB",
          field: "entry",
          words: "Under review.",
          listings: [3],
          mendable: false,
          before: [],
        },
      ],
      "POST /api/v1/refusals/mend": [],
    });
    const chosen = vi.fn();
    show(<Alike onChoose={chosen} />);
    fireEvent.click(await screen.findByText("Mend all alike"));
    expect(screen.queryAllByText(/^Mend (it|all)/)).toHaveLength(1);
    expect((screen.getByLabelText(/Condition is/) as HTMLInputElement).value).toBe("New");
    fireEvent.click(screen.getByText("Say so of 2"));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        {
          what: "POST /api/v1/refusals/mend",
          body: { site_id: 4, field: "attributes.condition", words: "Nothing used.", values: ["New"] },
        },
      ]),
    );
    await waitFor(() => expect(chosen).toHaveBeenCalledWith([1, 2]));
  });
});
