import { chakra } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listWatchHits, useMarkWatchHitsSeen } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Empty, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Panel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { time } from "../../parts/when";
import { MailForm } from "./mail";
import { useWatches } from "./queries";
import { WatchForm } from "./watchform";

type W = Schemas["Watch"];
type Hit = Schemas["Hit"];

/** Watches are the numbers somebody wants to be told of, beside what set them off. */
export function Watches() {
  const a = useAddress();
  const { data: watches, error } = useWatches();
  const { data: clock } = useClock();
  const only = Number(a.get("watch")) || undefined;
  const list = useParts(listWatchHits, { query: { watch: only } });
  const see = useMarkWatchHitsSeen((up_to: number) => ({ body: { up_to } }));
  const newest = list.rows.find((h) => !h.seen)?.id;
  const { mutate } = see;
  // What is shown for a while has been seen.
  useEffect(() => {
    if (!newest || only) return;
    const t = window.setTimeout(() => mutate(newest), 4000);
    return () => window.clearTimeout(t);
  }, [newest, only, mutate]);
  const [making, setMaking] = useState(false);
  useKeys({ n: () => setMaking(true) }, !making, [["N", "watch a number"]]);
  const chosen = watches?.find((w) => w.id === a.open);
  const close = () => {
    setMaking(false);
    a.setOpen(null);
  };
  return (
    <chakra.div display="flex" gap="5" flex="1" minH="0" pt="2">
      <chakra.section
        aria-label="What is watched"
        w="400px"
        flexShrink={0}
        overflowY="auto"
        borderRightWidth="1px"
        borderColor="hair"
        pr="4"
      >
        <chakra.div display="flex" gap="2" alignItems="center" mb="1">
          <Button look="main" onClick={() => setMaking(true)}>
            Watch a number <Key>N</Key>
          </Button>
          <Button onClick={() => a.put({ open: "0" })}>Mail</Button>
        </chakra.div>
        <Trouble error={error} />
        {watches?.map((w) => (
          <One
            key={w.id}
            watch={w}
            now={clock?.now}
            on={only === w.id}
            onOnly={() => a.put({ watch: only === w.id ? null : String(w.id) })}
            onOpen={() => a.setOpen(w.id)}
          />
        ))}
      </chakra.section>
      <chakra.section aria-label="What set them off" display="flex" flexDirection="column" flex="1" minW="0" minH="0">
        <Trouble error={list.error} />
        <Grid
          label="What set watches off"
          list={list}
          empty={
            <Empty title="Nothing yet">
              A watch is set off when its number begins to hold; what holds already when it is made sets nothing off.
            </Empty>
          }
          columns={columns(clock?.now).filter((c) => !(making || a.open !== null) || ["at", "words"].includes(c.key))}
        />
      </chakra.section>
      {(making || chosen) && <WatchForm key={chosen?.id ?? 0} watch={making ? undefined : chosen} onClose={close} />}
      {!making && a.open === 0 && (
        <Panel label="Mail" onClose={close}>
          <MailForm />
        </Panel>
      )}
    </chakra.div>
  );
}

type OneProps = { watch: W; now?: string; on: boolean; onOnly: () => void; onOpen: () => void };

function One({ watch: w, now, on, onOnly, onOpen }: OneProps) {
  return (
    <chakra.div borderTopWidth="1px" borderColor="hair" py="1.5" bg={on ? "band" : undefined} px="2">
      <chakra.div display="flex" gap="2" alignItems="center">
        <chakra.button
          type="button"
          onClick={onOpen}
          fontWeight="600"
          flex="1"
          minW="0"
          textAlign="left"
          cursor="pointer"
          truncate
          title={w.name}
        >
          {w.name}
        </chakra.button>
        {w.mail && <Word>mail</Word>}
        {!w.active && <Word>asleep</Word>}
        {w.quiet_until && now && w.quiet_until > now && <Word>quiet until {time(w.quiet_until, now)}</Word>}
        {w.unseen > 0 && <Word tone="bad">{w.unseen} new</Word>}
      </chakra.div>
      <chakra.div display="flex" gap="2" alignItems="baseline" fontSize="12px" color="quiet">
        <chakra.span flex="1" minW="0" truncate title={w.words}>
          {w.words !== w.name && w.words}
        </chakra.span>
        {w.holds > 0 && <span>holds for {w.holds}</span>}
        {w.hits > 0 ? (
          <chakra.button type="button" onClick={onOnly} textDecoration="underline" cursor="pointer">
            set off {w.hits}×, last {time(w.fired, now)}
          </chakra.button>
        ) : (
          <span>never set off</span>
        )}
      </chakra.div>
    </chakra.div>
  );
}

const columns = (now?: string): Column<Hit>[] => [
  {
    key: "at",
    head: "When",
    width: "92px",
    cell: (h) => <chakra.span fontWeight={h.seen ? "400" : "700"}>{time(h.at, now)}</chakra.span>,
  },
  { key: "watch", head: "Watch", width: "minmax(120px, 0.6fr)", cell: (h) => <span title={h.watch}>{h.watch}</span> },
  {
    key: "words",
    head: "What set it off",
    width: "minmax(220px, 1.6fr)",
    cell: (h) => <span title={h.words}>{h.picture ? <Pictured digest={h.picture}>{h.words}</Pictured> : h.words}</span>,
  },
  {
    key: "before",
    head: "Before → after",
    width: "176px",
    right: true,
    cell: (h) =>
      h.after ? (
        <chakra.span fontFamily="mono" whiteSpace="nowrap">
          {h.before && `${h.before.replace(/ [A-Z]{3}$| units$| sellers$| hours$/, "")} → `}
          <chakra.b fontWeight="700">{h.after}</chakra.b>
        </chakra.span>
      ) : (
        <Quiet>–</Quiet>
      ),
  },
  {
    key: "link",
    head: "Look",
    width: "48px",
    cell: (h) =>
      h.link ? (
        <Link to={h.link}>
          <chakra.span textDecoration="underline">see</chakra.span>
        </Link>
      ) : null,
  },
];
