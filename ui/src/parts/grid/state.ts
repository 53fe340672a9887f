import { type ColumnDef, getCoreRowModel, type Table, type Updater, useReactTable } from "@tanstack/react-table";
import { type ReactNode, useMemo, useState } from "react";
import { useKeys } from "../keys";

/** Column is how one thing about a row is shown. */
export type Column<T> = {
  key: string;
  head: ReactNode;
  width: string; // a CSS grid track
  right?: boolean;
  sort?: string; // the API's name for sorting by it
  cell: (row: T) => ReactNode;
};

export type Sorting = { sort: string; desc: boolean };

/** Rows is as much of a list as has been read, as useParts gives it. */
export type Rows<T> = { rows: T[]; total: number; more?: () => void; loading?: boolean };

export type GridOptions<T> = {
  list: Rows<T>;
  columns: Column<T>[];
  onOpen?: (row: T) => void;
  onAct?: (row: T) => void; // the row's main action, by "."
  selected?: Set<number>;
  onSelect?: (row: T) => void;
  sorting?: Sorting;
  onSort?: (s: Sorting) => void;
  active?: boolean; // whether keys go to this grid
};

type Meta = { width: string; right: boolean };

declare module "@tanstack/react-table" {
  interface ColumnMeta<TData, TValue> extends Meta {}
}

const now = <S>(updater: Updater<S>, old: S): S =>
  typeof updater === "function" ? (updater as (s: S) => S)(old) : updater;

/** useGrid is a grid's state without its markup: columns, order, what is chosen,
 * and the row that keys go to. The server sorts and reads part by part. */
export function useGrid<T extends { id: number }>(o: GridOptions<T>, scrollTo: (row: number) => void) {
  const { rows } = o.list;
  const [at, setAt] = useState(-1);
  const columns = useMemo(
    () =>
      o.columns.map(
        (c): ColumnDef<T> => ({
          id: c.key,
          accessorFn: (row) => row, // without one a column can't be sorted by
          header: () => c.head,
          cell: ({ row }) => c.cell(row.original),
          enableSorting: !!c.sort && !!o.onSort,
          sortDescFirst: false,
          meta: { width: c.width, right: !!c.right },
        }),
      ),
    [o.columns, o.onSort],
  );
  const sortedBy = o.columns.find((c) => c.sort && c.sort === o.sorting?.sort);
  const sorting = sortedBy && o.sorting ? [{ id: sortedBy.key, desc: o.sorting.desc }] : [];
  const table: Table<T> = useReactTable({
    data: rows,
    columns,
    getRowId: (r) => String(r.id),
    getCoreRowModel: getCoreRowModel(),
    manualSorting: true,
    enableSortingRemoval: false,
    state: {
      sorting,
      rowSelection: Object.fromEntries([...(o.selected ?? [])].map((id) => [String(id), true])),
    },
    enableRowSelection: !!o.onSelect,
    onSortingChange: (updater) => {
      const [first] = now(updater, sorting);
      const by = o.columns.find((c) => c.key === first?.id)?.sort;
      if (by) o.onSort?.({ sort: by, desc: first.desc });
    },
  });
  const move = (to: number) => {
    const next = Math.max(0, Math.min(rows.length - 1, to));
    setAt(next);
    scrollTo(next);
  };
  const row = rows[at] as T | undefined;
  const { onOpen, onSelect, onAct } = o;
  useKeys(
    {
      ArrowDown: () => move(at + 1),
      ArrowUp: () => move(at - 1),
      PageDown: () => move(at + 15),
      PageUp: () => move(at - 15),
      Home: () => move(0),
      End: () => move(rows.length - 1),
      ...(row && onOpen ? { Enter: () => onOpen(row) } : {}),
      ...(row && onSelect ? { " ": () => onSelect(row) } : {}),
      ...(row && onAct ? { ".": () => onAct(row) } : {}),
    },
    o.active !== false && rows.length > 0,
    [
      ["↑ ↓", "move in the list"],
      ...(onOpen ? [["Enter", "open"] as [string, string]] : []),
      ...(onSelect ? [["Space", "select"] as [string, string]] : []),
    ],
  );
  return { table, at, setAt };
}
