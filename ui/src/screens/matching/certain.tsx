import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useParts } from "../../api/operation";
import { listMatches, useDecideMatch, useDecideMatches, useSetAutoAccept } from "../../api/operations";
import { useSites } from "../../api/queries";
import { Button, Code, Empty, Key, Quiet, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Pictured } from "../../parts/picture";
import { toggled } from "../../parts/toggled";
import { Marked } from "./board";
import type { Match } from "./queries";

/** Certain are matches without a doubt that wait to be accepted together, after a look. */
export function Certain() {
  const { data: sites } = useSites();
  const list = useParts(listMatches, { query: { state: "certain" } });
  const [out, setOut] = useState<Set<number>>(new Set()); // left out
  const chosen = list.rows.filter((r) => !out.has(r.id)).slice(0, 500);
  const accept = useDecideMatches(() => ({
    body: {
      choices: chosen.map((r) => ({
        id: r.id,
        entry: r.entry,
        units_bought: r.units_bought,
        units_listed: r.units_listed,
      })),
    },
  }));
  const later = useDecideMatch((id: number) => ({ path: { id }, body: { state: "later" as const } }));
  const go = () => {
    if (chosen.length > 0 && !accept.isPending) accept.mutate(undefined);
  };
  useKeys({ A: go, a: go }, true, [["A", "accept all that are ticked"]]);
  const ticked = new Set(chosen.map((r) => r.id));
  return (
    <>
      <chakra.div display="flex" gap="4" alignItems="center" py="2" flexWrap="wrap">
        {sites
          ?.filter((s) => s.lists)
          .map((s) => (
            <Accepts key={s.id} id={s.id} name={s.name} on={s.accepts} />
          ))}
        <chakra.span flex="1" />
        {list.rows.length > 0 && (
          <Button look="main" onClick={go} disabled={chosen.length === 0 || accept.isPending}>
            Accept {chosen.length} <Key>A</Key>
          </Button>
        )}
      </chakra.div>
      <Trouble error={list.error ?? accept.error ?? later.error} retry={list.retry} />
      {accept.data && accept.data.failed.length > 0 && (
        <Trouble error={new Error(`${accept.data.failed.length} couldn't be accepted: ${accept.data.failed[0].why}`)} />
      )}
      <Grid
        label="Certain matches"
        list={list}
        selected={ticked}
        onSelect={(r) => setOut(toggled(out, r.id))}
        onAct={(r) => later.mutate(r.id)}
        empty={
          <Empty title="None waits here">
            Where certain matches are accepted by themselves, they are made at once and stand under Decided, where they
            can be taken back. Otherwise they wait here for a look.
          </Empty>
        }
        columns={columns}
      />
    </>
  );
}

/** Accepts says whether a site's certain matches are accepted by themselves. */
function Accepts({ id, name, on }: { id: number; name: string; on: boolean }) {
  const set = useSetAutoAccept((to: boolean) => ({ path: { id }, body: { on: to } }));
  return (
    <chakra.label display="flex" gap="1.5" alignItems="center">
      <input type="checkbox" checked={on} onChange={(e) => set.mutate(e.target.checked)} disabled={set.isPending} />
      accept by themselves on {name}
    </chakra.label>
  );
}

/** units says how many are in either side, where it isn't one of each. */
export const unitsOf = (m: Match) =>
  m.units_bought === 1 && m.units_listed === 1 ? "" : `${m.units_bought || "?"} : ${m.units_listed || "?"}`;

const columns: Column<Match>[] = [
  {
    key: "title",
    head: "Supplier's product",
    width: "minmax(0, 1fr)",
    cell: (m) => <Pictured digest={m.picture}>{m.title}</Pictured>,
  },
  {
    key: "entry",
    head: "Entry",
    width: "minmax(0, 1fr)",
    cell: (m) => <Marked text={m.entry_title} against={m.title} />,
  },
  { key: "gtin", head: "Number", width: "124px", cell: (m) => <Code>{m.gtin}</Code> },
  { key: "units", head: "Bought : listed", width: "104px", cell: (m) => <Code color="ink">{unitsOf(m)}</Code> },
  { key: "site", head: "Site", width: "120px", cell: (m) => <Quiet>{m.site}</Quiet> },
];
