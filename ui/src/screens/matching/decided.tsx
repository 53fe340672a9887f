import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useParts } from "../../api/operation";
import { listMatches, useSetMatchUnits, useUndoMatch } from "../../api/operations";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Key, Quiet, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Panel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { time } from "../../parts/when";
import { Board, Marked } from "./board";
import { unitsOf } from "./certain";
import { type Match, useDesk } from "./queries";
import { UnitsForm } from "./units";

/** Decided are the matches that were made: by themselves, or by a person. Each
 * opens into its evidence, where its units can be changed and it can be taken back. */
export function Decided() {
  const a = useAddress();
  const list = useParts(listMatches, { query: { state: "decided", sort: "decided", desc: true } });
  const opened = list.rows.find((m) => m.id === a.open);
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="Decided matches"
          list={list}
          open={a.open}
          onOpen={(m) => a.setOpen(m.id)}
          empty={<Empty title="Nothing is matched yet">What is matched stands here, the newest first.</Empty>}
          columns={opened ? columns.slice(0, 2) : columns}
        />
        {opened && <One key={opened.id} match={opened} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

function One({ match: m, onClose }: { match: Match; onClose: () => void }) {
  const desk = useDesk(m.id, "");
  const [asking, setAsking] = useState(false);
  const back = useUndoMatch(() => ({ path: { id: m.id } }));
  const units = useSetMatchUnits((u: { bought: number; listed: number }) => ({
    path: { id: m.id },
    body: { units_bought: u.bought, units_listed: u.listed },
  }));
  const takeBack = () => {
    if (!back.isPending) back.mutate(undefined, { onSuccess: onClose });
  };
  useKeys({ T: takeBack, t: takeBack, u: () => setAsking(true), U: () => setAsking(true) }, !asking, [
    ["T", "take the match back"],
    ["U", "say how many are in it"],
  ]);
  const entry = desk.data?.candidates.find((c) => c.ref === m.entry);
  return (
    <Panel label="One match" onClose={onClose}>
      <chakra.div pt="2" pr="12">
        <chakra.h2 fontSize="15.5px" fontWeight="700">
          {m.title}
        </chakra.h2>
        <Quiet>
          matched {m.decided_by === "lookup" ? "by itself" : `by ${m.decided_by}`} {time(m.decided_at)}, on {m.site}
        </Quiet>
      </chakra.div>
      <Trouble error={desk.error ?? back.error ?? units.error} />
      <chakra.div display="flex" gap="2" py="2">
        <Button onClick={takeBack} disabled={back.isPending}>
          Take it back <Key>T</Key>
        </Button>
        <Button onClick={() => setAsking(true)}>
          How many <Key>U</Key>
        </Button>
      </chakra.div>
      <Quiet>Taken back, it asks again; what is on sale by it is planned to go to nothing.</Quiet>
      {asking && (
        <UnitsForm
          bought={m.units_bought}
          listed={m.units_listed}
          label="How many are in it"
          onSay={(u) => {
            setAsking(false);
            units.mutate(u);
          }}
          onClose={() => setAsking(false)}
        />
      )}
      {entry && <Board match={m} candidates={[entry]} onUnits={() => setAsking(true)} />}
    </Panel>
  );
}

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
  { key: "units", head: "Bought : listed", width: "104px", cell: (m) => <Code color="ink">{unitsOf(m)}</Code> },
  { key: "site", head: "Site", width: "120px", cell: (m) => <Quiet>{m.site}</Quiet> },
  {
    key: "by",
    head: "Decided",
    width: "150px",
    cell: (m) => (
      <Quiet>
        {m.decided_by === "lookup" ? "by itself" : m.decided_by}, {time(m.decided_at)}
      </Quiet>
    ),
  },
];
