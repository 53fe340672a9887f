import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listPreparations, useSubmitContent } from "../../api/operations";
import { useCounts } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Key, Quiet, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Pictured } from "../../parts/picture";
import { toggled } from "../../parts/toggled";
import { nameOf } from "../preparing/words";
import { SaidThere } from "./beside";

type Row = Schemas["PreparationRow"];

/** Words are listings on sale that are to say something else than they do there,
 * and those that somebody changed there. */
export function Words() {
  const a = useAddress();
  const { data: c } = useCounts();
  const there = a.get("side") === "there";
  return (
    <>
      <chakra.nav aria-label="Changed words" display="flex" gap="2" pt="2">
        <Button aria-pressed={!there} onClick={() => a.put({ side: null, open: null })}>
          To send, {c?.words ?? 0}
        </Button>
        <Button aria-pressed={there} onClick={() => a.put({ side: "there", open: null })}>
          Changed there, {c?.said_there ?? 0}
        </Button>
      </chakra.nav>
      {there ? <SaidThere /> : <ToSend />}
    </>
  );
}

/** ToSend are those of which ours is to be sent. */
function ToSend() {
  const a = useAddress();
  const go = useNavigate();
  const [chosen, setChosen] = useState(new Set<number>());
  const list = useParts(listPreparations, { query: { part: "unsent", ...a.sorting } });
  const send = useSubmitContent(() => ({ body: chosen.size > 0 ? { listings: [...chosen] } : {} }));
  const n = chosen.size || list.total;
  const act = () => {
    if (n > 0 && !send.isPending)
      send.mutate(undefined, {
        onSuccess: (s) => {
          setChosen(new Set());
          if (s.send_outs.length) go(s.send_outs.length === 1 ? `/send/${s.send_outs[0]}` : "/send?tab=out");
        },
      });
  };
  useKeys({ ".": act }, true, [[".", "send what differs"]]);
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        <Quiet flex="1">Only the fields that differ go; prices and stock are left as they are.</Quiet>
        {chosen.size > 0 && <Button onClick={() => setChosen(new Set())}>Choose none</Button>}
        <Button look="main" disabled={n === 0 || send.isPending} onClick={act}>
          {n === 1 ? "Send what differs" : `Send what differs of ${n}`} <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={send.error ?? list.error} />
      <Grid
        label="Changed words"
        list={list}
        onOpen={(r) => go(`/prepare/${r.id}`)}
        empty={
          <Empty title="All says there what it is to say">
            What you change of a listing on sale, under Prepare, stands here until it is sent.
          </Empty>
        }
        columns={columns(chosen, (id) => setChosen((old) => toggled(old, id)))}
      />
    </>
  );
}

const columns = (chosen: Set<number>, toggle: (id: number) => void): Column<Row>[] => [
  {
    key: "chosen",
    head: "Send",
    width: "48px",
    cell: (r) => (
      <input
        type="checkbox"
        aria-label={`Send ${r.title}`}
        checked={chosen.has(r.id)}
        onClick={(e) => e.stopPropagation()}
        onChange={() => toggle(r.id)}
      />
    ),
  },
  {
    key: "title",
    head: "As it is to be",
    width: "minmax(220px, 1.3fr)",
    sort: "title",
    cell: (r) => <Pictured digest={r.picture}>{r.title}</Pictured>,
  },
  { key: "site", head: "Site", width: "140px", cell: (r) => <Quiet>{r.site}</Quiet> },
  { key: "sku", head: "SKU", width: "100px", cell: (r) => <Code>{r.sku}</Code> },
  {
    key: "changed",
    head: "What differs",
    width: "minmax(200px, 1fr)",
    cell: (r) => r.changed.map(nameOf).join(", "),
  },
];
