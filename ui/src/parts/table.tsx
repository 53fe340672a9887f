import { chakra } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { useKeys } from "./keys";

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

type Props<T> = {
  label: string;
  list: Rows<T>;
  columns: Column<T>[];
  group?: (row: T, before: T | undefined) => ReactNode; // a heading before a row
  onOpen?: (row: T) => void;
  onAct?: (row: T) => void; // the row's main action, by "."
  selected?: Set<number>;
  onSelect?: (row: T) => void;
  open?: number | null;
  sorting?: Sorting;
  onSort?: (s: Sorting) => void;
  empty?: ReactNode;
  active?: boolean; // whether keys go to this table
};

const rowHeight = 34;

/** DataTable is a list of any length: only what is seen is drawn, more is read
 * as it is scrolled to. Arrows move, Enter opens, Space selects, "." acts. */
export function DataTable<T extends { id: number }>(p: Props<T>) {
  const { rows, total, more, loading } = p.list;
  const scroll = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(-1);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => (p.group?.(rows[i], rows[i - 1]) ? rowHeight + 34 : rowHeight),
    overscan: 12,
    getItemKey: (i) => rows[i].id,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? -1;
  useEffect(() => {
    if (last >= 0 && last >= rows.length - 20 && rows.length < total) more?.();
  }, [last, rows.length, total, more]);
  // Group headings change the heights of rows that are already measured by guess.
  // biome-ignore lint/correctness/useExhaustiveDependencies: measured anew whenever rows change
  useEffect(() => virtual.measure(), [rows]);

  const move = (to: number) => {
    const next = Math.max(0, Math.min(rows.length - 1, to));
    setAt(next);
    virtual.scrollToIndex(next);
  };
  const row = rows[at];
  useKeys(
    {
      ArrowDown: () => move(at + 1),
      ArrowUp: () => move(at - 1),
      PageDown: () => move(at + 15),
      PageUp: () => move(at - 15),
      Home: () => move(0),
      End: () => move(rows.length - 1),
      ...(row && p.onOpen ? { Enter: () => p.onOpen?.(row) } : {}),
      ...(row && p.onSelect ? { " ": () => p.onSelect?.(row) } : {}),
      ...(row && p.onAct ? { ".": () => p.onAct?.(row) } : {}),
    },
    p.active !== false && rows.length > 0,
  );

  const tracks = (p.onSelect ? "34px " : "") + p.columns.map((c) => c.width).join(" ");
  const sort = (c: Column<T>) => {
    if (c.sort) p.onSort?.({ sort: c.sort, desc: p.sorting?.sort === c.sort ? !p.sorting.desc : false });
  };
  return (
    <chakra.div
      role="grid"
      aria-label={p.label}
      aria-rowcount={total}
      display="flex"
      flexDirection="column"
      flex="1"
      minH="0"
    >
      <chakra.div
        role="row"
        display="grid"
        gridTemplateColumns={tracks}
        columnGap="3"
        px="2"
        h="32px"
        alignItems="center"
        borderBottomWidth="1px"
        borderColor="hair"
        color="quiet"
        fontSize="12.5px"
        fontWeight="600"
        flexShrink={0}
        css={{ scrollbarGutter: "stable" }}
        overflow="hidden"
      >
        {p.onSelect && <chakra.div role="columnheader" aria-label="selected" />}
        {p.columns.map((c) => (
          <chakra.div
            key={c.key}
            role="columnheader"
            textAlign={c.right ? "right" : "left"}
            aria-sort={
              p.sorting?.sort === c.sort && c.sort ? (p.sorting?.desc ? "descending" : "ascending") : undefined
            }
            truncate
          >
            {c.sort && p.onSort ? (
              <chakra.button
                type="button"
                onClick={() => sort(c)}
                fontWeight="600"
                cursor="pointer"
                _hover={{ color: "ink" }}
              >
                {c.head}
                {p.sorting?.sort === c.sort ? (p.sorting?.desc ? " ↓" : " ↑") : ""}
              </chakra.button>
            ) : (
              c.head
            )}
          </chakra.div>
        ))}
      </chakra.div>
      <chakra.div
        ref={scroll}
        role="rowgroup"
        flex="1"
        minH="0"
        overflowY="auto"
        css={{ scrollbarGutter: "stable" }}
        tabIndex={0}
        aria-label={`${p.label}, rows`}
      >
        {rows.length === 0 ? (
          <div role="row">
            <div role="gridcell">
              {loading ? (
                <chakra.div py="10" textAlign="center" color="quiet">
                  Reading…
                </chakra.div>
              ) : (
                p.empty
              )}
            </div>
          </div>
        ) : (
          <chakra.div position="relative" h={`${virtual.getTotalSize()}px`}>
            {items.map((v) => {
              const r = rows[v.index];
              const head = p.group?.(r, rows[v.index - 1]);
              return (
                <chakra.div
                  key={v.key}
                  position="absolute"
                  top="0"
                  left="0"
                  right="0"
                  style={{ transform: `translateY(${v.start}px)` }}
                >
                  {head && (
                    <chakra.div
                      role="row"
                      h="34px"
                      display="flex"
                      alignItems="center"
                      px="2"
                      bg="band"
                      borderBottomWidth="1px"
                      borderColor="hair"
                    >
                      <chakra.div role="gridcell" flex="1">
                        {head}
                      </chakra.div>
                    </chakra.div>
                  )}
                  <Row
                    table={p}
                    row={r}
                    tracks={tracks}
                    index={v.index}
                    at={v.index === at}
                    onPoint={() => setAt(v.index)}
                  />
                </chakra.div>
              );
            })}
          </chakra.div>
        )}
      </chakra.div>
    </chakra.div>
  );
}

type RowProps<T> = { table: Props<T>; row: T; tracks: string; index: number; at: boolean; onPoint: () => void };

function Row<T extends { id: number }>({ table: p, row, tracks, index, at, onPoint }: RowProps<T>) {
  const id = row.id;
  const chosen = p.selected?.has(id);
  return (
    <chakra.div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={p.onSelect ? !!chosen : undefined}
      data-row={id}
      display="grid"
      gridTemplateColumns={tracks}
      columnGap="3"
      px="2"
      h={`${rowHeight}px`}
      alignItems="center"
      borderBottomWidth="1px"
      borderColor="hair"
      cursor={p.onOpen ? "pointer" : undefined}
      bg={p.open === id ? "tint" : at ? "band" : undefined}
      boxShadow={at ? "inset 3px 0 0 var(--chakra-colors-focus)" : undefined}
      _hover={{ bg: p.open === id ? "tint" : "band" }}
      onClick={() => {
        onPoint();
        p.onOpen?.(row);
      }}
    >
      {p.onSelect && (
        <div role="gridcell">
          <input
            type="checkbox"
            aria-label={`select row ${index + 1}`}
            checked={!!chosen}
            onClick={(e) => e.stopPropagation()}
            onChange={() => p.onSelect?.(row)}
          />
        </div>
      )}
      {p.columns.map((c) => (
        <chakra.div key={c.key} role="gridcell" textAlign={c.right ? "right" : "left"} truncate>
          {c.cell(row)}
        </chakra.div>
      ))}
    </chakra.div>
  );
}
