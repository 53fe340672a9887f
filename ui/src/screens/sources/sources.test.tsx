import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, describe, expect, it } from "vitest";
import { DataTable } from "../../parts/table";
import { system } from "../../theme";
import { rechosen } from "./before";
import { unpairs } from "./settings";
import { size } from "./words";

afterEach(cleanup);

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

describe("a table by keyboard", () => {
  type Row = { id: number; name: string };
  const rows: Row[] = [1, 2, 3].map((id) => ({ id, name: `row ${id}` }));
  const show = (more: Partial<Parameters<typeof DataTable<Row>>[0]>) => {
    const router = createMemoryRouter([
      {
        path: "*",
        element: (
          <DataTable
            label="Things"
            list={{ rows, total: 3 }}
            columns={[{ key: "name", head: "Name", width: "1fr", sort: "name", cell: (r: Row) => r.name }]}
            {...more}
          />
        ),
      },
    ]);
    render(
      <ChakraProvider value={system}>
        <QueryClientProvider client={new QueryClient()}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ChakraProvider>,
    );
  };
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
    fireEvent.click(screen.getByText(/Name/));
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
