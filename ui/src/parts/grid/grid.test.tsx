import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { show as draw } from "../testing";
import { Grid } from ".";

describe("a table by keyboard", () => {
  type Row = { id: number; name: string };
  const rows: Row[] = [1, 2, 3].map((id) => ({ id, name: `row ${id}` }));
  const show = (more: Partial<Parameters<typeof Grid<Row>>[0]>) =>
    draw(
      <Grid
        label="Things"
        list={{ rows, total: 3 }}
        columns={[{ key: "name", head: "Name", width: "1fr", sort: "name", cell: (r: Row) => r.name }]}
        {...more}
      />,
    );
  it("moves, opens, selects and acts", () => {
    const did: string[] = [];
    show({
      onOpen: (r) => did.push(`open ${r.id}`),
      onSelect: (r) => did.push(`select ${r.id}`),
      onAct: (r) => did.push(`act ${r.id}`),
      selected: new Set(),
    });
    for (const key of [
      "ArrowDown",
      "ArrowDown",
      "Enter",
      " ",
      ".",
      "End",
      "Enter",
      "ArrowUp",
      "Enter",
      "Home",
      "Enter",
    ])
      fireEvent.keyDown(window, { key });
    expect(did).toEqual(["open 2", "select 2", "act 2", "open 3", "open 2", "open 1"]);
  });
  it("leaves keys alone while somebody types", () => {
    const did: string[] = [];
    show({ onOpen: () => did.push("open") });
    const field = document.createElement("input");
    document.body.append(field);
    fireEvent.keyDown(field, { key: "ArrowDown" });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(did).toEqual([]);
    field.remove();
  });
  it("sorts by its heads, the other way the second time", () => {
    const sorts: unknown[] = [];
    show({ sorting: { sort: "name", desc: false }, onSort: (s) => sorts.push(s) });
    expect(screen.getByRole("columnheader").getAttribute("aria-sort")).toBe("ascending");
    fireEvent.click(screen.getByRole("button", { name: /Name/ }));
    expect(sorts).toEqual([{ sort: "name", desc: true }]);
  });
  it("says what will be here when nothing is", () => {
    show({ list: { rows: [], total: 0 }, empty: <p>Nothing yet</p> });
    expect(screen.getByText("Nothing yet")).toBeTruthy();
  });
  it("asks for no more than there is, and says that it reads", () => {
    let asked = 0;
    const more = () => {
      asked++;
    };
    show({ list: { rows, total: 3, more } });
    expect(asked).toBe(0);
    show({ list: { rows: [], total: 0, loading: true } });
    expect(screen.getByText("Reading…")).toBeTruthy();
  });
});
