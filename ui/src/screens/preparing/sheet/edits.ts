import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { checkPreparationSheet, updatePreparationSheet } from "../../../api/operations";
import { useDo } from "../../../api/queries";
import { type Say, several } from "../queries";

export type Column = Schemas["SheetColumn"];
type Answered = Schemas["SheetRow"];

/** Row is a listing with its values as they are being changed; kept are those
 * that stand in the data. */
export type Row = Answered & { kept: string[] };

type Cell = { id: number; column: number; from: string; to: string };

const part = 500; // rows that are looked at, or kept, in one go
const pause = 200; // ms after the last key before what was typed is looked at

/** said is what a person says in a row: what differs from what is kept. */
export function said(r: Row, columns: Column[]): Say[] {
  return columns.flatMap((c, i) =>
    r.values[i] === r.kept[i] ? [] : [{ field: c.field, values: several(c.field, r.values[i]) }],
  );
}

/** answered puts an answer into a row: what a person is typing stays, what was
 * emptied is what stands there without it. */
function answered(r: Row, a: Answered): Row {
  const values = r.values.map((v, i) => (v === r.kept[i] || v === "" ? a.values[i] : v));
  const kept = r.kept.map((k, i) => (r.values[i] === "" && k !== "" ? a.values[i] : k));
  return { ...r, ...a, values, kept: kept.map((k, i) => (r.values[i] === r.kept[i] ? a.values[i] : k)) };
}

/** useEdits is a sheet as it is being changed: checked as it is typed, undone
 * step by step, kept at once. */
export function useEdits(columns: Column[], first: Answered[]) {
  const [rows, setRows] = useState(() => new Map(first.map((r) => [r.id, { ...r, kept: r.values }])));
  const done = useRef<Cell[][]>([]);
  const undone = useRef<Cell[][]>([]);
  const waiting = useRef(new Set<number>());
  const [ticks, setTicks] = useState(0);
  const latest = useRef(rows);
  latest.current = rows;

  useEffect(() => {
    if (ticks === 0) return;
    const wait = setTimeout(async () => {
      const ids = [...waiting.current].slice(0, part);
      for (const id of ids) waiting.current.delete(id);
      const asked = ids.map((id) => latest.current.get(id)).filter((r) => r !== undefined);
      if (asked.length === 0) return;
      const body = { rows: asked.map((r) => ({ id: r.id, say: said(r, columns) })) };
      const answer = await checkPreparationSheet({ body }).catch(() => null);
      if (!answer) return; // what was typed is looked at once more when it is kept
      setRows((old) => {
        const next = new Map(old);
        answer.forEach((a, i) => {
          const now = next.get(a.id);
          if (now && now.values === asked[i].values) next.set(a.id, answered(now, a)); // else it is asked about again
        });
        return next;
      });
      if (waiting.current.size > 0) setTicks((n) => n + 1);
    }, pause);
    return () => clearTimeout(wait);
  }, [ticks, columns]);

  const put = (cells: Cell[], way: "from" | "to") => {
    if (cells.length === 0) return;
    setRows((old) => {
      const next = new Map(old);
      for (const c of cells) {
        const r = next.get(c.id);
        if (r) next.set(c.id, { ...r, values: r.values.with(c.column, c[way]) });
      }
      return next;
    });
    for (const c of cells) waiting.current.add(c.id);
    setTicks((n) => n + 1);
  };
  const change = (cells: Cell[]) => {
    const real = cells.filter((c) => c.from !== c.to);
    if (real.length === 0) return;
    done.current.push(real);
    undone.current = [];
    put(real, "to");
  };
  const keep = useDo(async () => {
    const all = [...latest.current.values()].filter((r) => said(r, columns).length > 0);
    for (let i = 0; i < all.length; i += part) {
      const some = all.slice(i, i + part);
      const body = { rows: some.map((r) => ({ id: r.id, say: said(r, columns) })) };
      const answer = await updatePreparationSheet({ body });
      setRows((old) => {
        const next = new Map(old);
        for (const a of answer) next.set(a.id, { ...a, picture: a.picture, kept: a.values });
        return next;
      });
    }
    done.current = [];
    undone.current = [];
  });
  const changed = [...rows.values()].map((r) => said(r, columns).length).filter((n) => n > 0);
  return {
    rows,
    /** cells and listings that are changed and not kept yet */
    cells: changed.reduce((a, b) => a + b, 0),
    listings: changed.length,
    wrong: [...rows.values()].reduce(
      (n, r) => n + r.wrong.filter((w) => w.level === "stops" && r.values[w.column] !== r.kept[w.column]).length,
      0,
    ),
    /** took takes what the grid changed: rows as they were, and as they are now. */
    took: (before: Row[], after: Row[]) =>
      change(
        after.flatMap((r, n) =>
          r === before[n]
            ? []
            : r.values.flatMap((to, column) =>
                to === before[n].values[column] ? [] : [{ id: r.id, column, from: before[n].values[column], to }],
              ),
        ),
      ),
    /** fill writes a value into a column of some rows. */
    fill: (ids: number[], column: number, to: string) =>
      change(
        ids.flatMap((id) => {
          const r = rows.get(id);
          return r && !r.off[column] ? [{ id, column, from: r.values[column], to }] : [];
        }),
      ),
    undo: () => {
      const last = done.current.pop();
      if (last) {
        undone.current.push(last);
        put(last, "from");
      }
    },
    redo: () => {
      const last = undone.current.pop();
      if (last) {
        done.current.push(last);
        put(last, "to");
      }
    },
    canUndo: done.current.length > 0,
    keep: () => keep.mutate(undefined),
    keeping: keep.isPending,
    error: keep.error,
  };
}

export type Edits = ReturnType<typeof useEdits>;
