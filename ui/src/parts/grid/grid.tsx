import { chakra } from "@chakra-ui/react";
import { flexRender, type Header, type Row as TableRow } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useRef } from "react";
import { type GridOptions, useGrid } from "./state";

type GridProps<T> = GridOptions<T> & {
  label: string;
  group?: (row: T, before: T | undefined) => ReactNode; // a heading before a row
  open?: number | null;
  empty?: ReactNode;
};

const rowHeight = 34;

/** Grid is a list of any length: only what is seen is drawn, more is read as it
 * is scrolled to. Arrows move, Enter opens, Space selects, "." acts. */
export function Grid<T extends { id: number }>(p: GridProps<T>) {
  const { rows, total, more, loading } = p.list;
  const scroll = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => (p.group?.(rows[i], rows[i - 1]) ? rowHeight + 34 : rowHeight),
    overscan: 12,
    getItemKey: (i) => rows[i].id,
  });
  const { table, at, setAt } = useGrid(p, (i) => virtual.scrollToIndex(i));
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? -1;
  useEffect(() => {
    if (last >= 0 && last >= rows.length - 20 && rows.length < total) more?.();
  }, [last, rows.length, total, more]);
  // Group headings change the heights of rows that are already measured by guess.
  // biome-ignore lint/correctness/useExhaustiveDependencies: measured anew whenever rows change
  useEffect(() => virtual.measure(), [rows]);
  const drawn = table.getRowModel().rows;
  const tracks = (p.onSelect ? "34px " : "") + p.columns.map((c) => c.width).join(" ");
  return (
    <chakra.div
      role="grid"
      aria-label={p.label}
      aria-rowcount={total}
      display="flex"
      flexDirection="column"
      flex="1"
      minH="0"
      minW="0"
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
        {p.onSelect && (
          <chakra.div role="columnheader">
            <chakra.span srOnly>selected</chakra.span>
          </chakra.div>
        )}
        {table.getFlatHeaders().map((h) => (
          <Head key={h.id} of={h} />
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
          <chakra.div role="presentation" position="relative" h={`${virtual.getTotalSize()}px`}>
            {items.map((v) => {
              const r = drawn[v.index];
              const head = p.group?.(r.original, rows[v.index - 1]);
              return (
                <chakra.div
                  key={v.key}
                  role="presentation"
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
                    of={r}
                    tracks={tracks}
                    at={r.index === at}
                    open={p.open === r.original.id}
                    onPoint={() => setAt(r.index)}
                    onOpen={p.onOpen}
                    onSelect={p.onSelect}
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

function Head<T>({ of: h }: { of: Header<T, unknown> }) {
  const { column } = h;
  const sorted = column.getIsSorted();
  const words = flexRender(column.columnDef.header, h.getContext());
  return (
    <chakra.div
      role="columnheader"
      textAlign={column.columnDef.meta?.right ? "right" : "left"}
      aria-sort={sorted ? (sorted === "desc" ? "descending" : "ascending") : undefined}
      truncate
    >
      {column.getCanSort() ? (
        <chakra.button
          type="button"
          onClick={column.getToggleSortingHandler()}
          fontWeight="600"
          cursor="pointer"
          minH="24px"
          _hover={{ color: "ink" }}
        >
          {words}
          {sorted ? (sorted === "desc" ? " ↓" : " ↑") : ""}
        </chakra.button>
      ) : (
        words
      )}
    </chakra.div>
  );
}

type RowProps<T> = {
  of: TableRow<T>;
  tracks: string;
  at: boolean;
  open: boolean;
  onPoint: () => void;
  onOpen?: (row: T) => void;
  onSelect?: (row: T) => void;
};

function Row<T extends { id: number }>({ of: r, tracks, at, open, onPoint, onOpen, onSelect }: RowProps<T>) {
  return (
    <chakra.div
      role="row"
      aria-rowindex={r.index + 2}
      aria-selected={onSelect ? r.getIsSelected() : undefined}
      data-row={r.id}
      display="grid"
      gridTemplateColumns={tracks}
      columnGap="3"
      px="2"
      h={`${rowHeight}px`}
      alignItems="center"
      borderBottomWidth="1px"
      borderColor="hair"
      cursor={onOpen ? "pointer" : undefined}
      bg={open ? "tint" : at ? "band" : undefined}
      boxShadow={at ? "inset 3px 0 0 var(--chakra-colors-focus)" : undefined}
      _hover={{ bg: open ? "tint" : "band" }}
      onClick={() => {
        onPoint();
        onOpen?.(r.original);
      }}
    >
      {onSelect && (
        <chakra.div role="gridcell" display="flex">
          <chakra.label
            display="inline-flex"
            minW="24px"
            minH="24px"
            alignItems="center"
            justifyContent="center"
            onClick={(e) => e.stopPropagation()}
          >
            <input
              type="checkbox"
              aria-label={`select row ${r.index + 1}`}
              checked={r.getIsSelected()}
              onChange={() => onSelect(r.original)}
            />
          </chakra.label>
        </chakra.div>
      )}
      {r.getVisibleCells().map((c) => (
        <chakra.div key={c.id} role="gridcell" textAlign={c.column.columnDef.meta?.right ? "right" : "left"} truncate>
          {flexRender(c.column.columnDef.cell, c.getContext())}
        </chakra.div>
      ))}
    </chakra.div>
  );
}
