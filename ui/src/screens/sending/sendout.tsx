import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listSubmissionLines, useAbandonSubmission, useHoldSubmission, useRetrySubmission } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Next } from "../../parts/next";
import { ListingPanel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { Tabs } from "../../parts/tabs";
import { time } from "../../parts/when";
import { WhatWasSent } from "./attempts";
import { TakeBack } from "./back";
import { useSendOut } from "./queries";
import { Left } from "./sendouts";
import { One, useSheets } from "./sheets";

type Row = Schemas["SendOutRow"];
type Line = Schemas["SendLineRow"];

const states = ["waiting", "sent", "refused", "unknown", "withdrawn", "given up"] as const;

/** SendOut follows one batch: how far it is, and what the marketplace says of each line. */
export function SendOut() {
  const id = Number(useParams().id);
  const a = useAddress();
  const go = useNavigate();
  const state = a.get("state");
  const { data: o, error, refetch } = useSendOut(id);
  const { data: clock } = useClock();
  const list = useParts(listSubmissionLines, { path: { id }, query: { state } });
  const [back, setBack] = useState(false);
  const opened = back ? undefined : list.rows.find((x) => x.id === a.open);
  useKeys({ Escape: () => go("/send?tab=out") }, !opened && !back, [["Esc", "back to all send-outs"]]);
  return (
    <>
      <Title
        title={o ? `${o.undoes ? "Taken back on" : o.plan_id ? "Changes to" : "Listings to"} ${o.site}` : "Send-out"}
        more={
          o &&
          [
            `begun ${time(o.created, clock?.now)}${o.sender && o.sender !== "owner" ? ` by ${o.sender}` : ""}`,
            o.batch && `their batch ${o.batch}`,
            o.done && `answered ${time(o.done, clock?.now)}`,
          ]
            .filter(Boolean)
            .join(", ")
        }
      >
        {o && o.confirmed > 0 && !back && <Button onClick={() => setBack(true)}>Take it back…</Button>}
        <a href={`/api/v1/submissions/${id}/outcomes/export.csv`} download>
          <Button as="span">Outcomes, CSV</Button>
        </a>
        <a href={`/api/v1/submissions/${id}/outcomes/export.xlsx`} download>
          <Button as="span">XLSX</Button>
        </a>
        <Button onClick={() => go("/send?tab=out")}>All send-outs</Button>
      </Title>
      <Left />
      <Trouble error={error} retry={refetch} />
      {o && <HowFar of={o} />}
      {o && o.sheets > 0 && <Filled id={o.id} />}
      {o && <End of={o} />}
      {o?.state === "done" && <Next first={o.refused > 0 ? "refused" : undefined} keyed={!back} />}
      <Tabs
        label="Lines of this send-out"
        tabs={[
          { to: "?", label: "All lines", count: o?.lines, on: state === "" },
          ...states
            .filter((s) => s === "refused" || s === state || counted(o, s) > 0)
            .map((s) => ({
              to: `?state=${encodeURIComponent(s)}`,
              label: s[0].toUpperCase() + s.slice(1),
              count: counted(o, s),
              on: state === s,
            })),
        ]}
      >
        <chakra.div display="flex" flex="1" minH="0" gap="4">
          <Grid
            label="Lines of this send-out"
            list={list}
            empty={<Empty title="No such lines">None of this send-out's lines is in this state.</Empty>}
            open={a.open}
            onOpen={(x) =>
              x.state === "refused" && !o?.plan_id ? go(`/send?tab=refused&open=${x.listing_id}`) : a.setOpen(x.id)
            }
            columns={opened || back ? columns.filter((c) => !["sku", "words", "page"].includes(c.key)) : columns}
          />
          {opened && (
            <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)}>
              <WhatWasSent listing={opened.listing_id} />
            </ListingPanel>
          )}
          {back && <TakeBack id={id} onClose={() => setBack(false)} />}
        </chakra.div>
      </Tabs>
    </>
  );
}

/** Filled are the sheets that a send-out came to. */
function Filled({ id }: { id: number }) {
  const list = useSheets(id);
  const first = list.data?.find((f) => !f.uploaded && !f.stale);
  return (
    <chakra.div pb="2">
      {list.data?.map((f) => (
        <One key={f.id} file={f} keyed={f.id === first?.id} />
      ))}
      <Link to="/send?tab=sheets">
        <chakra.span textDecoration="underline">All sheets, and their reports</chakra.span>
      </Link>
    </chakra.div>
  );
}

/** counted is how many lines are in a state, of those that are counted one by one. */
function counted(o: Row | undefined, state: (typeof states)[number]): number {
  if (!o || state === "waiting" || state === "sent") return 0;
  return o[state === "given up" ? "given_up" : state];
}

/** HowFar is a bar and figures: what was answered, and how. */
function HowFar({ of: o }: { of: Row }) {
  const answered = o.lines - o.waiting;
  const part = (n: number, colour: string) =>
    n > 0 && <chakra.div h="100%" bg={colour} style={{ width: `${(100 * n) / o.lines}%` }} />;
  return (
    <chakra.section aria-label="How far it is" pb="3">
      <chakra.div display="flex" gap="6" alignItems="baseline" mb="1">
        <chakra.span fontFamily="mono" fontSize="21px" fontWeight="600">
          {answered} / {o.lines}
        </chakra.span>
        <span>answered</span>
        <chakra.span color="gain" fontWeight="600">
          {o.confirmed} confirmed
        </chakra.span>
        <chakra.span color={o.refused ? "loss" : "quiet"} fontWeight="600">
          {o.refused} refused
        </chakra.span>
        {o.unknown > 0 && (
          <chakra.span color="loss" fontWeight="600">
            {o.unknown} unknown
          </chakra.span>
        )}
        {o.given_up > 0 && <chakra.span color="loss">{o.given_up} given up</chakra.span>}
        {o.withdrawn > 0 && <Quiet>{o.withdrawn} taken back in time</Quiet>}
        {o.waiting > 0 && <Quiet>{o.waiting} to come</Quiet>}
      </chakra.div>
      <chakra.div
        h="8px"
        display="flex"
        bg="band"
        rounded="2px"
        overflow="hidden"
        role="progressbar"
        aria-label="Lines answered"
        aria-valuenow={answered}
        aria-valuemax={o.lines}
      >
        {part(o.confirmed, "gain")}
        {part(o.refused + o.given_up + o.unknown, "loss")}
        {part(o.withdrawn, "quiet")}
      </chakra.div>
    </chakra.section>
  );
}

/** End says how a send-out stands, and offers what may be done where nothing is being done for it. */
function End({ of: o }: { of: Row }) {
  const path = { path: { id: o.id } };
  const again = useRetrySubmission(() => path);
  const hold = useHoldSubmission((on: boolean) => ({ ...path, body: { on } }));
  const giveUp = useAbandonSubmission(() => path);
  const back = o.unknown > 0;
  if (!o.may_end && o.state === "waiting" && !o.held)
    return (
      <chakra.div role="status" display="flex" gap="3" alignItems="center" pb="2" color="quiet">
        {o.words}
        <Button size="small" disabled={hold.isPending} onClick={() => hold.mutate(true)}>
          Hold it
        </Button>
      </chakra.div>
    );
  if (!o.may_end)
    return o.error || back || o.state !== "done" ? (
      <chakra.p role="status" color={back ? "ink" : "quiet"} pb="2">
        {o.words} {o.error}
      </chakra.p>
    ) : null;
  return (
    <>
      <chakra.section aria-label="It waits for you" role="alert" {...warned}>
        <chakra.div flex="1">
          {o.error && <chakra.div fontWeight="600">{o.error}</chakra.div>}
          <div>{o.words}</div>
        </chakra.div>
        <Button size="small" disabled={giveUp.isPending} onClick={() => giveUp.mutate(undefined)}>
          Give it up
        </Button>
        {o.state === "waiting" && (
          <Button size="small" disabled={hold.isPending} onClick={() => hold.mutate(!o.held)}>
            {o.held ? "Let it go on" : "Hold it"}
          </Button>
        )}
        <Button size="small" look="main" disabled={again.isPending} onClick={() => again.mutate(undefined)}>
          {o.state === "sent" ? "Ask again" : o.error ? "Try again" : "Send it now"}
        </Button>
      </chakra.section>
      <Trouble error={again.error ?? giveUp.error ?? hold.error} />
    </>
  );
}

const warned = {
  bg: "warn",
  borderLeftWidth: "3px",
  borderColor: "loss",
  px: "3",
  py: "2",
  mb: "2",
  display: "flex",
  gap: "3",
  alignItems: "center",
} as const;

const tones: Partial<Record<Line["state"], "bad" | "good">> = {
  refused: "bad",
  "given up": "bad",
  unknown: "bad",
  confirmed: "good",
};

const columns: Column<Line>[] = [
  {
    key: "title",
    head: "Product",
    width: "minmax(180px, 1fr)",
    cell: (x) => <Pictured digest={x.picture}>{x.title}</Pictured>,
  },
  { key: "sku", head: "SKU", width: "90px", cell: (x) => <Code>{x.sku}</Code> },
  {
    key: "price",
    head: "Price",
    width: "110px",
    right: true,
    cell: (x) => (x.price == null ? <Quiet>as it is</Quiet> : <Money minor={x.price} currency={x.currency} unit />),
  },
  {
    key: "quantity",
    head: "Quantity",
    width: "90px",
    right: true,
    cell: (x) => (x.quantity == null ? <Quiet>as it is</Quiet> : <Code color="ink">{x.quantity}</Code>),
  },
  { key: "state", head: "Outcome", width: "104px", cell: (x) => <Word tone={tones[x.state]}>{x.state}</Word> },
  {
    key: "words",
    head: "What the marketplace says",
    width: "minmax(200px, 2fr)",
    cell: (x) => (
      <chakra.span fontSize="12.5px" title={[x.words, x.later].filter(Boolean).join(" · ")}>
        {x.words} {x.later && <Quiet>Said later: {x.later}</Quiet>}
      </chakra.span>
    ),
  },
  {
    key: "page",
    head: "Page",
    width: "70px",
    cell: (x) =>
      x.state === "confirmed" && x.page ? (
        <chakra.a href={x.page} target="_blank" rel="noreferrer" textDecoration="underline">
          page
        </chakra.a>
      ) : null,
  },
];
