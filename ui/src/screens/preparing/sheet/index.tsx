import { chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { DataSheetGrid, type DataSheetGridRef } from "react-datasheet-grid";
import { useBlocker, useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { getPreparationSheet } from "../../../api/operations";
import { useSites } from "../../../api/queries";
import { useAddress } from "../../../parts/address";
import { Button, Empty, Input, Key, Quiet, Select, Title, Trouble } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { useHeight } from "../../../parts/width";
import { writing } from "../prepare";
import { useDemands } from "../queries";
import { nameOf } from "../words";
import { columnsOf, Lead } from "./cells";
import { type Row, useEdits } from "./edits";
import "react-datasheet-grid/dist/style.css";

/** Sheet is many listings of one category as a grid to type and paste into. */
export function Sheet() {
  const a = useAddress();
  const go = useNavigate();
  const { data: sites } = useSites();
  const own = writing(sites);
  const site = Number(a.get("site")) || own[0]?.id || 0;
  const { data: demands } = useDemands(site || undefined);
  const used = [...(demands ?? [])].sort((x, y) => y.listings - x.listings);
  const category = a.get("category") || used[0]?.category || "";
  const all = a.get("all") === "yes";
  const { data, error } = useQuery({
    queryKey: ["sheet", site, category, all],
    enabled: site > 0 && category !== "",
    gcTime: 0,
    refetchOnWindowFocus: false,
    queryFn: () => getPreparationSheet({ query: { site, category, all: all || undefined } }),
  });
  useKeys({ Escape: () => go("/prepare") }, true, [["Esc", "back to the list"]]);
  return (
    <>
      <Title
        title="Prepare, as a sheet"
        more="Type, paste from a spreadsheet, fill down. Nothing is kept before you say so."
      >
        {own.length > 1 && (
          <Select
            w="180px"
            aria-label="Site"
            value={site}
            onChange={(e) => a.put({ site: e.currentTarget.value, category: null })}
          >
            {own.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </Select>
        )}
        <Select
          w="220px"
          aria-label="Category"
          value={category}
          onChange={(e) => a.put({ category: e.currentTarget.value })}
        >
          {used.map((d) => (
            <option key={d.category} value={d.category}>
              {d.path} ({d.listings})
            </option>
          ))}
        </Select>
        <Select
          w="150px"
          aria-label="Which"
          value={all ? "yes" : ""}
          onChange={(e) => a.put({ all: e.currentTarget.value || null })}
        >
          <option value="">that lack something</option>
          <option value="yes">all of them</option>
        </Select>
      </Title>
      <Trouble error={error} />
      {data && data.rows.length === 0 && (
        <Empty title="Nothing stands here">
          No listing of this category lacks anything. Choose all of them to see them.
        </Empty>
      )}
      {data && data.rows.length > 0 && <Open key={`${site} ${category} ${all}`} sheet={data} />}
    </>
  );
}

function Open({ sheet }: { sheet: Schemas["Sheet"] }) {
  const e = useEdits(sheet.columns, sheet.rows);
  const [words, setWords] = useState("");
  const [sort, setSort] = useState("");
  const [order, setOrder] = useState(() => sheet.rows.map((r) => r.id));
  const grid = useRef<DataSheetGridRef>(null);
  const { ref, height } = useHeight<HTMLDivElement>(400);

  const onSort = (field: string) => {
    const at = sheet.columns.findIndex((c) => c.field === field);
    const up = sort !== field;
    setSort(up ? field : `-${field}`);
    const value = (id: number) => e.rows.get(id)?.values[at] ?? "";
    const by = new Intl.Collator(undefined, { numeric: true });
    setOrder([...order].sort((x, y) => by.compare(value(x), value(y)) * (up ? 1 : -1)));
  };
  // The columns are the same while the sheet is open: the grid keeps what is selected.
  const sorting = useRef(onSort);
  sorting.current = onSort;
  const columns = useMemo(
    () => columnsOf(sheet.columns, { sorted: sort, onSort: (f) => sorting.current(f) }),
    [sheet.columns, sort],
  );

  const want = words.toLowerCase();
  const shown = order
    .map((id) => e.rows.get(id) as Row)
    .filter((r) => !want || [r.title, r.sku, ...r.values].some((v) => v.toLowerCase().includes(want)));

  const fillDown = (whole: boolean) => {
    const cell = grid.current?.activeCell;
    const of = grid.current?.selection;
    if (!cell) return;
    const from = whole ? cell.row : (of?.min.row ?? cell.row);
    const to = whole ? shown.length - 1 : (of?.max.row ?? cell.row);
    for (
      let at = whole ? cell.col : (of?.min.col ?? cell.col);
      at <= (whole ? cell.col : (of?.max.col ?? cell.col));
      at++
    ) {
      const ids = shown.slice(whole ? 0 : from + 1, to + 1).map((r) => r.id);
      e.fill(ids, at, shown[from].values[at]);
    }
  };
  const shortcuts = (k: React.KeyboardEvent) => {
    if (!(k.ctrlKey || k.metaKey)) return;
    const does: Record<string, () => void> = {
      z: k.shiftKey ? e.redo : e.undo,
      y: e.redo,
      d: () => fillDown(false),
      s: e.keep,
    };
    const does1 = does[k.key.toLowerCase()];
    if (!does1) return;
    k.preventDefault();
    k.stopPropagation();
    does1();
  };
  useKeys({}, true, [
    ["Ctrl D", "fill down what is selected"],
    ["Ctrl Z", "undo; with Shift, again"],
    ["Ctrl S", "keep what was changed"],
    ["Ctrl C, V", "copy, and paste from a spreadsheet"],
  ]);
  return (
    <chakra.section
      aria-label="The sheet"
      flex="1"
      minH="0"
      display="flex"
      flexDirection="column"
      onKeyDownCapture={shortcuts}
    >
      <chakra.div display="flex" gap="2" alignItems="center" py="2">
        <Input
          type="search"
          w="200px"
          h="28px"
          aria-label="Words in it"
          placeholder="Words in it"
          value={words}
          onChange={(x) => setWords(x.target.value)}
        />
        <Button
          size="small"
          onClick={() => fillDown(true)}
          title="What stands in the chosen cell is written into all of its column"
        >
          Write it into the whole column
        </Button>
        <Button size="small" disabled={!e.canUndo} onClick={e.undo}>
          Undo <Key>Ctrl Z</Key>
        </Button>
        <Quiet flex="1" role="status">
          {shown.length} {shown.length === 1 ? "listing" : "listings"}
          {sheet.more && ", the first 10 000"}
          {e.cells > 0 && `; ${e.cells} ${e.cells === 1 ? "value" : "values"} changed in ${e.listings}`}
          {e.wrong > 0 && <chakra.span color="loss">, {e.wrong} of them wrong</chakra.span>}
        </Quiet>
        <Button look="main" disabled={e.cells === 0 || e.keeping} onClick={e.keep}>
          Keep {e.cells} {e.cells === 1 ? "value" : "values"} <Key>Ctrl S</Key>
        </Button>
      </chakra.div>
      <Trouble error={e.error} />
      <Leaving cells={e.cells} />
      <chakra.div ref={ref} flex="1" minH="0" css={look}>
        <DataSheetGrid<Row>
          ref={grid}
          value={shown}
          onChange={(after) => e.took(shown, after)}
          columns={columns}
          gutterColumn={{ component: Lead, basis: 290, minWidth: 290, grow: 0, shrink: 0, title: <Heading /> }}
          rowKey={({ rowData }) => String(rowData.id)}
          height={height}
          rowHeight={34}
          headerRowHeight={44}
          lockRows
          disableContextMenu
          disableSmartDelete
          addRowsComponent={false}
        />
      </chakra.div>
      {sheet.columns.map(
        (c) =>
          c.asked?.values && (
            <datalist key={c.field} id={`values of ${c.field}`} aria-label={`Values of ${nameOf(c.field)}`}>
              {c.asked.values.map((v) => (
                <option key={v} value={v} />
              ))}
            </datalist>
          ),
      )}
    </chakra.section>
  );
}

/** Leaving asks before what was typed is dropped. */
function Leaving({ cells }: { cells: number }) {
  const leaving = useBlocker(cells > 0);
  useEffect(() => {
    if (cells === 0) return;
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [cells]);
  if (leaving.state !== "blocked") return null;
  return (
    <chakra.div role="alert" display="flex" gap="2" alignItems="center" pb="2">
      <chakra.span>
        {cells} {cells === 1 ? "value isn't" : "values aren't"} kept yet.
      </chakra.span>
      <Button size="small" autoFocus onClick={leaving.reset}>
        Stay here
      </Button>
      <Button size="small" onClick={leaving.proceed}>
        Drop them and leave
      </Button>
    </chakra.div>
  );
}

const Heading = () => (
  <chakra.span color="ink" fontWeight="600">
    As it would go up
  </chakra.span>
);

// The grid in our colours.
const look = {
  "--dsg-border-color": "{colors.hair}",
  "--dsg-selection-border-color": "{colors.action}",
  "--dsg-selection-background-color": "color-mix(in srgb, {colors.action} 8%, transparent)",
  "--dsg-selection-disabled-border-color": "{colors.quiet}",
  "--dsg-selection-disabled-background-color": "color-mix(in srgb, {colors.quiet} 8%, transparent)",
  "--dsg-header-text-color": "{colors.quiet}",
  "--dsg-header-active-text-color": "{colors.ink}",
  "--dsg-cell-background-color": "{colors.panel}",
  "--dsg-cell-disabled-background-color": "{colors.ground}",
  "--dsg-transition-duration": "0s",
  "& .dsg-container": { color: "ink", background: "panel" },
} as const;
