import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useParts } from "../../api/operation";
import { listMatches, useUndoMatch } from "../../api/operations";
import { useCounts } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Key, Quiet, Title, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Next } from "../../parts/next";
import { Thumb } from "../../parts/picture";
import { Tabs } from "../../parts/tabs";
import { Alike } from "./alike";
import { Certain } from "./certain";
import { Decided } from "./decided";
import { DeskOf } from "./desk";
import { OwnNumbers } from "./own";
import type { Match as Row, State } from "./queries";
import { Seconds } from "./second";

/** Last is the decision made last, which can be undone. */
export type Last = { id: number; title: string; what: string };

/** Match is a desk for one decision at a time: is this the same product, and how many of it? */
export function Match() {
  const a = useAddress();
  const state = (a.get("state") || "waiting") as State | "own" | "second";
  const { data: counts } = useCounts();
  const tab = (to: string, label: string, on: boolean, count?: number) => ({ to, label, on, count });
  return (
    <>
      <Title title="Match" more="Is it the same thing, and how many of it?" />
      <Tabs
        label="Match"
        tabs={[
          tab("?", "Waiting", state === "waiting", counts && counts.match_several + counts.match_none),
          tab("?state=certain", "Certain", state === "certain", counts?.match_certain),
          tab("?state=second", "Second suppliers", state === "second"),
          tab("?state=later", "Later", state === "later", counts?.match_later),
          tab("?state=new%20entry", "New entries asked for", state === "new entry"),
          tab("?state=decided", "Decided", state === "decided"),
          tab("?state=own", "Own numbers and SKUs", state === "own"),
        ]}
      >
        {state === "own" && <OwnNumbers />}
        {state === "certain" && <Certain />}
        {state === "second" && <Seconds />}
        {state === "decided" && <Decided />}
        {(state === "waiting" || state === "later" || state === "new entry") && <Desk key={state} state={state} />}
      </Tabs>
    </>
  );
}

/** Desk is the list of those that wait, and the one that is decided now. */
function Desk({ state }: { state: "waiting" | "later" | "new entry" }) {
  const a = useAddress();
  const list = useParts(listMatches, { query: { state } });
  const [last, setLast] = useState<Last>();
  const [alike, setAlike] = useState(false);
  const [gone, setGone] = useState<Set<number>>(new Set()); // decided, and perhaps still in the list
  const rows = list.rows.filter((m) => !gone.has(m.id));
  const decided = (d: Last) => {
    setLast(d);
    setGone(new Set([...gone, d.id]));
  };
  // What is decided leaves the list; then the one that took its place is at hand.
  const place = useRef(0);
  const found = rows.findIndex((m) => m.id === a.open);
  const at = found >= 0 ? found : Math.max(0, Math.min(place.current, rows.length - 1));
  useEffect(() => {
    if (rows.length > 0) place.current = at;
  }, [at, rows.length]);
  const current = rows[at] as Row | undefined;
  const move = (by: number) => {
    const next = rows[at + by];
    if (next) a.setOpen(next.id);
  };
  const back = useUndoMatch((id: number) => ({ path: { id } }));
  const undo = () => {
    if (!last || back.isPending) return;
    back.mutate(last.id, {
      onSuccess: () => {
        setGone(new Set([...gone].filter((id) => id !== last.id)));
        a.setOpen(last.id);
        setLast(undefined);
        setAlike(false);
      },
    });
  };
  useKeys({ ArrowDown: () => move(1), ArrowUp: () => move(-1), z: undo, Z: undo }, true, [
    ["↓ ↑", "the next product, or the one before"],
    ["Z", "undo the decision made last"],
  ]);
  useKeys({ s: () => setAlike(true), S: () => setAlike(true) }, !!last && !alike, [
    ["S", "the same for all that differ in the same way"],
  ]);
  return (
    <>
      <Trouble error={list.error ?? back.error} retry={list.retry} />
      {last && (
        <chakra.div
          role="status"
          display="flex"
          gap="3"
          alignItems="center"
          py="1.5"
          px="2"
          bg="band"
          rounded="5px"
          mt="2"
        >
          <chakra.span flex="1" minW="0" truncate>
            {last.title} <Quiet>{last.what}</Quiet>
          </chakra.span>
          <Button size="small" onClick={() => setAlike(!alike)} aria-expanded={alike}>
            The same for all like this <Key>S</Key>
          </Button>
          <Button size="small" onClick={undo}>
            Undo <Key>Z</Key>
          </Button>
        </chakra.div>
      )}
      {last && alike && <Alike to={last.id} onClose={() => setAlike(false)} />}
      {!list.loading && rows.length === 0 ? (
        <Empty title="Nothing waits here">
          {state === "waiting"
            ? "Supplier products that no entry is certain for wait here for your decision."
            : state === "later"
              ? "What you put off stands here until you decide."
              : "Products that no entry is there for stand here with all that is known of them."}
          {state === "waiting" && <Next except={["match"]} keyed />}
        </Empty>
      ) : (
        <chakra.div display="grid" gridTemplateColumns="248px minmax(0, 1fr)" gap="4" flex="1" minH="0">
          <chakra.div
            overflowY="auto"
            role="listbox"
            aria-label="Supplier products"
            tabIndex={0}
            borderRightWidth="1px"
            borderColor="hair"
            pr="2"
          >
            {rows.map((m) => (
              <Waiting key={m.id} match={m} on={m.id === current?.id} onOpen={() => a.setOpen(m.id)} />
            ))}
          </chakra.div>
          {current && <DeskOf key={current.id} match={current} onDecided={decided} />}
        </chakra.div>
      )}
    </>
  );
}

const verdicts: Record<string, string> = {
  conflict: "its number or its pack is in doubt",
  likely: "likely, and not certain",
  unsure: "several stand",
  none: "nothing like it found",
  "not allowed": "not allowed there",
};

/** Waiting is one product in the list of those that wait. */
function Waiting({ match: m, on, onOpen }: { match: Row; on: boolean; onOpen: () => void }) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (on) box.current?.scrollIntoView?.({ block: "nearest" });
  }, [on]);
  return (
    <chakra.div
      ref={box}
      role="option"
      aria-selected={on}
      onClick={onOpen}
      display="flex"
      gap="2"
      alignItems="center"
      px="2"
      py="1.5"
      cursor="pointer"
      borderBottomWidth="1px"
      borderColor="hair"
      bg={on ? "tint" : undefined}
      _hover={{ bg: "band" }}
    >
      <Thumb digest={m.picture} size={34} />
      <chakra.div minW="0">
        <chakra.div truncate fontWeight={on ? "700" : "500"}>
          {m.title}
        </chakra.div>
        <chakra.div color="quiet" fontSize="12px" truncate>
          {m.note
            ? "asks again: its row changed"
            : m.state === "new entry"
              ? m.number || "new entry"
              : verdicts[m.verdict]}
          {" · "}
          {m.site}
        </chakra.div>
      </chakra.div>
      {m.number && <Code srOnly>{m.number}</Code>}
    </chakra.div>
  );
}
