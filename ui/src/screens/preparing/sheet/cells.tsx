import { chakra } from "@chakra-ui/react";
import { useLayoutEffect, useRef } from "react";
import type { CellProps, Column as GridColumn } from "react-datasheet-grid";
import { Thumb } from "../../../parts/picture";
import { nameOf } from "../words";
import type { Column, Row } from "./edits";

type Data = { column: Column; at: number };

/** Cell is one value of the sheet: typed into where it has the focus. */
function Cell({
  rowData: r,
  columnData: { column, at },
  active,
  focus,
  setRowData,
  stopEditing,
}: CellProps<Row, Data>) {
  const box = useRef<HTMLInputElement>(null);
  useLayoutEffect(() => {
    if (focus) {
      box.current?.focus();
      box.current?.select();
    } else box.current?.blur();
  }, [focus]);
  const wrong = r.wrong.find((w) => w.column === at);
  const value = r.values[at];
  const stops = wrong?.level === "stops";
  return (
    <chakra.div
      display="flex"
      alignItems="center"
      w="100%"
      h="100%"
      px="2"
      gap="1"
      title={wrong?.words}
      bg={value === r.kept[at] ? undefined : "band"}
    >
      {stops && (
        <chakra.span aria-hidden="true" color="loss" fontFamily="mono">
          !
        </chakra.span>
      )}
      {r.off[at] ? (
        <chakra.span color="quiet">doesn't apply</chakra.span>
      ) : (
        <chakra.input
          ref={box}
          tabIndex={-1}
          aria-label={`${nameOf(column.field)} of ${r.title || r.sku}${wrong ? `: ${wrong.words}` : ""}`}
          aria-invalid={stops || undefined}
          value={value}
          list={active && column.asked?.values ? `values of ${column.field}` : undefined}
          placeholder={stops ? wrong?.words : column.field === "title" ? r.title : ""}
          onChange={(e) => setRowData({ ...r, values: r.values.with(at, e.target.value) })}
          onKeyDown={(e) => e.key === "Enter" && e.nativeEvent.isComposing === false && stopEditing({ nextRow: true })}
          w="100%"
          bg="transparent"
          color={stops ? "loss" : "ink"}
          fontStyle={r.ours[at] || value !== r.kept[at] ? undefined : "italic"}
          outline="none"
          pointerEvents={focus ? "auto" : "none"}
          _placeholder={{ color: stops ? "loss" : "quiet" }}
        />
      )}
    </chakra.div>
  );
}

/** Lead is what a row begins with, and stays in sight: its picture and title. */
export function Lead({ rowData: r }: { rowData: Row }) {
  return (
    <chakra.span display="flex" gap="2" alignItems="center" w="100%" px="1" color="ink" title={r.sku}>
      <Thumb digest={r.picture} />
      <chakra.span truncate flex="1" textAlign="left">
        {r.title || r.sku}
      </chakra.span>
      <chakra.span fontSize="12px" color={r.stops > 0 ? "loss" : "quiet"} whiteSpace="nowrap">
        {r.stops > 0 ? `${r.stops} to do` : "ready"}
      </chakra.span>
    </chakra.span>
  );
}

const wide: Record<string, number> = { title: 260, description: 260, words: 200, kind: 180 };

type Heads = { sorted: string; onSort: (field: string) => void };

/** columnsOf are the columns as the grid wants them. */
export function columnsOf(columns: Column[], { sorted, onSort }: Heads): Partial<GridColumn<Row, Data, string>>[] {
  return columns.map((column, at) => ({
    id: column.field,
    title: (
      <chakra.button
        type="button"
        textAlign="left"
        cursor="pointer"
        title="Sort by it"
        onClick={() => onSort(column.field)}
      >
        <chakra.span color="ink" fontWeight="600">
          {nameOf(column.field)} {sorted === column.field ? "↓" : sorted === `-${column.field}` ? "↑" : ""}
        </chakra.span>
        <chakra.span display="block" fontSize="11.5px" color="quiet">
          {column.need || "may be said"}
          {column.asked?.unit && `, ${column.asked.unit}`}
        </chakra.span>
      </chakra.button>
    ),
    component: Cell,
    columnData: { column, at },
    basis: wide[column.field] ?? 140,
    minWidth: wide[column.field] ?? 140,
    grow: 1,
    disabled: ({ rowData }) => rowData.off[at],
    copyValue: ({ rowData }) => rowData.values[at],
    deleteValue: ({ rowData }) => ({ ...rowData, values: rowData.values.with(at, "") }),
    pasteValue: ({ rowData, value }) =>
      rowData.off[at] ? rowData : { ...rowData, values: rowData.values.with(at, value.trim()) },
    isCellEmpty: ({ rowData }) => rowData.values[at] === "",
  }));
}
