import { act, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../../parts/testing";
import { type Column, type Edits, type Row, useEdits } from "./edits";

const columns: Column[] = [
  { field: "attributes.condition", need: "needed" },
  { field: "attributes.colour", need: "helps" },
];

const row = (id: number, more: object = {}) => ({
  id,
  sku: `S-${id}`,
  title: `Mug ${id}`,
  picture: "",
  state: "incomplete",
  stops: 1,
  values: ["", "moss"],
  ours: [false, false],
  off: [false, false],
  wrong: [{ column: 0, level: "stops" as const, words: "condition is missing" }],
  ...more,
});

function open(answers: Record<string, unknown> = {}) {
  const api = server(answers);
  const held: { e?: Edits } = {};
  const rows = [row(1), row(2)];
  function Sheet() {
    const e = useEdits(columns, rows);
    held.e = e;
    return (
      <p>
        {e.cells} changed in {e.listings}, {e.wrong} wrong
      </p>
    );
  }
  show(<Sheet />);
  const now = () => held.e as Edits;
  const type = (id: number, column: number, value: string) => {
    const before = [now().rows.get(id) as Row];
    act(() => now().took(before, [{ ...before[0], values: before[0].values.with(column, value) }]));
  };
  return { api, now, type };
}

describe("a sheet as it is being changed", () => {
  it("looks at what was typed, row by row, and says what is wrong", async () => {
    const wrong = { column: 0, level: "stops", words: "condition is none of the place's values" };
    const { api, type } = open({
      "POST /api/v1/preparations/sheet/check": [row(1, { values: ["broken", "moss"], wrong: [wrong] })],
    });
    type(1, 0, "broken");
    await screen.findByText("1 changed in 1, 1 wrong");
    await waitFor(() =>
      expect(api.writes()).toEqual([
        {
          what: "POST /api/v1/preparations/sheet/check",
          body: { rows: [{ id: 1, say: [{ field: "attributes.condition", values: ["broken"] }] }] },
        },
      ]),
    );
  });
  it("undoes and does again, a paste in one step", async () => {
    const { now, type } = open();
    type(1, 0, "new");
    act(() => now().fill([1, 2], 1, "Moss green"));
    await screen.findByText(/^3 changed in 2/);
    act(() => now().undo());
    await screen.findByText(/^1 changed in 1/);
    act(() => now().redo());
    await screen.findByText(/^3 changed in 2/);
    act(() => now().undo());
    act(() => now().undo());
    await screen.findByText(/^0 changed in 0/);
    expect(now().canUndo).toBe(false);
  });
  it("doesn't fill what doesn't apply", async () => {
    const { now } = open();
    const off = now().rows.get(2) as Row;
    off.off[0] = true;
    act(() => now().fill([1, 2], 0, "new"));
    await screen.findByText(/^1 changed in 1/);
  });
  it("keeps all of it at once, and stands as the core says from then on", async () => {
    const { api, now, type } = open({
      "PUT /api/v1/preparations/sheet": [row(1, { values: ["new", "moss"], ours: [true, false], wrong: [], stops: 0 })],
      "POST /api/v1/preparations/sheet/check": [row(1, { values: ["new", "moss"], wrong: [], stops: 0 })],
    });
    type(1, 0, "new");
    act(() => now().keep());
    await screen.findByText(/^0 changed in 0/);
    expect(api.writes()).toContainEqual({
      what: "PUT /api/v1/preparations/sheet",
      body: { rows: [{ id: 1, say: [{ field: "attributes.condition", values: ["new"] }] }] },
    });
    expect(now().rows.get(1)?.ours[0]).toBe(true);
    expect(now().canUndo).toBe(false);
  });
  it("shows what stands there once a person's word is emptied", async () => {
    const { now, type } = open({ "POST /api/v1/preparations/sheet/check": [row(1, { values: ["", "slate"] })] });
    type(1, 1, "");
    await waitFor(() => expect(now().rows.get(1)?.values[1]).toBe("slate"));
  });
});
