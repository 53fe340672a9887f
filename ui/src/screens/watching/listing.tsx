import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listSubmittedOfListing } from "../../api/operations";
import { useClock, useListing } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Course, type Moment } from "../../parts/charts";
import { Button, Code, Empty, Head, Quiet, Select, Title, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money, money } from "../../parts/money";
import { Tabs } from "../../parts/tabs";
import { time } from "../../parts/when";
import { useWidth } from "../../parts/width";
import { useThroughTime } from "./queries";

type Sent = Schemas["SentRow"];
type Step = Schemas["Step"];
type History = Schemas["History"];

/** ThroughTime is one listing since it was listed: its cost, price, floor, rivals
 * and stock in one drawing, and every change with why and what was said of it. */
export function ThroughTime() {
  const id = Number(useParams().id);
  const a = useAddress();
  const days = Number(a.get("days")) || 60;
  const table = a.get("tab") === "table";
  const { data: l, error } = useListing(id);
  const { data: h, error: noHistory } = useThroughTime(id, days);
  const list = useParts(listSubmittedOfListing, { path: { id } });
  const { data: clock } = useClock();
  useKeys({ Escape: () => history.back() }, true, [["Esc", "back to where you came from"]]);
  return (
    <>
      <Title title={l?.title ?? "A listing"} more={l && `${l.sku} on ${l.site}, ${l.state}`}>
        <Select aria-label="How far back" value={days} onChange={(e) => a.put({ days: e.target.value })}>
          {[7, 30, 60, 180, 365].map((n) => (
            <option key={n} value={n}>
              {n} days
            </option>
          ))}
        </Select>
        <Button onClick={() => history.back()}>Back</Button>
      </Title>
      <Trouble error={error ?? noHistory ?? list.error} />
      {h && !table && <Drawn of={h} />}
      <Tabs
        label="What happened"
        tabs={[
          { to: "?", label: "What was sent", count: list.total, on: !table },
          { to: "?tab=table", label: "The drawing as a table", on: table },
        ]}
      >
        {table ? (
          h && <AsTable of={h} now={clock?.now} />
        ) : (
          <Grid
            label="What was sent"
            list={list}
            empty={<Empty title="Nothing was sent yet">Every price and quantity that goes out stands here.</Empty>}
            columns={columns(l?.currency ?? "GBP", clock?.now)}
          />
        )}
      </Tabs>
    </>
  );
}

const moments = (steps: Step[], value: (s: Step) => number | null): Moment[] =>
  steps.map((s) => ({ at: s.at, value: value(s) }));

function Drawn({ of: h }: { of: History }) {
  const { ref, width } = useWidth<HTMLDivElement>(1200);
  if (h.steps.length < 2) return <Empty title="Nothing has moved yet" />;
  const all = (v: number | null) => (v === null ? null : v - h.charged); // others' totals as item prices
  const last = h.steps[h.steps.length - 1];
  return (
    <chakra.div ref={ref} pb="2">
      <Course
        label={`Price, cost, floor and rivals in ${h.currency} over time; now the price is ${last.price === null ? "none" : money(last.price, h.currency)}`}
        width={width}
        height={190}
        until={h.to}
        show={(v) => money(v, h.currency)}
        curves={[
          { name: "price asked", tone: "strip.left", width: 2.5, points: moments(h.steps, (s) => s.price) },
          { name: "floor", tone: "loss", dash: "6 3", points: moments(h.steps, (s) => s.floor) },
          { name: "landed cost", tone: "strip.cost", dash: "2 2", points: moments(h.steps, (s) => s.cost) },
          {
            name: "lowest rival, less delivery",
            tone: "strip.delivery",
            points: moments(h.steps, (s) => all(s.lowest)),
          },
          {
            name: "leading rival",
            tone: "strip.tax",
            dash: "8 2 2 2",
            points: moments(h.steps, (s) => (s.leading === s.lowest ? null : all(s.leading))),
          },
        ]}
      />
      <Course
        label="Units at the supplier and offered over time"
        width={width}
        height={84}
        until={h.to}
        from={0}
        show={String}
        curves={[
          { name: "units at the supplier", tone: "strip.cost", points: moments(h.steps, (s) => s.stock) },
          { name: "units offered", tone: "strip.left", width: 2.5, points: moments(h.steps, (s) => s.quantity) },
        ]}
      />
    </chakra.div>
  );
}

function AsTable({ of: h, now }: { of: History; now?: string }) {
  const [most, setMost] = useState(200);
  const rows = [...h.steps].reverse();
  const cell = (v: number | null) => (
    <chakra.td textAlign="right">
      <Money minor={v} currency={h.currency} />
    </chakra.td>
  );
  return (
    <chakra.div overflowY="auto" flex="1" tabIndex={0} role="region" aria-label="The drawing as a table">
      <chakra.table w="100%" maxW="900px">
        <thead>
          <tr>
            <Head left>From</Head>
            <Head>Price, {h.currency}</Head>
            <Head>Floor</Head>
            <Head>Landed cost</Head>
            <Head>Lowest rival in all</Head>
            <Head>Leading rival in all</Head>
            <Head>At the supplier</Head>
            <Head>Offered</Head>
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, most).map((s) => (
            <chakra.tr key={s.at} borderTopWidth="1px" borderColor="hair">
              <td>{time(s.at, now)}</td>
              {cell(s.price)}
              {cell(s.floor)}
              {cell(s.cost)}
              {cell(s.lowest)}
              {cell(s.leading)}
              <chakra.td textAlign="right" fontFamily="mono">
                {s.stock ?? "–"}
              </chakra.td>
              <chakra.td textAlign="right" fontFamily="mono">
                {s.quantity}
              </chakra.td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      {rows.length > most && (
        <Button size="small" onClick={() => setMost(most + 500)}>
          {rows.length - most} more
        </Button>
      )}
    </chakra.div>
  );
}

const tones: Record<string, "bad" | "good" | undefined> = {
  confirmed: "good",
  refused: "bad",
  unknown: "bad",
  "given up": "bad",
};

const columns = (currency: string, now?: string): Column<Sent>[] => [
  { key: "at", head: "Let go", width: "100px", cell: (r) => time(r.at, now) },
  {
    key: "price",
    head: "Price",
    width: "160px",
    right: true,
    cell: (r) =>
      r.price === null ? (
        <Quiet>as it was</Quiet>
      ) : (
        <chakra.span fontFamily="mono" whiteSpace="nowrap">
          {r.from_price === null ? "" : `${money(r.from_price, currency)} → `}
          <chakra.b fontWeight="700">{money(r.price, currency)}</chakra.b> {currency}
        </chakra.span>
      ),
  },
  {
    key: "quantity",
    head: "Offered",
    width: "84px",
    right: true,
    cell: (r) =>
      r.quantity === null ? (
        <Quiet>as it was</Quiet>
      ) : (
        <Code color="ink">
          {r.from_quantity === null ? "" : `${r.from_quantity} → `}
          {r.quantity}
        </Code>
      ),
  },
  {
    key: "profit",
    head: "Left of it",
    width: "76px",
    right: true,
    cell: (r) => <Money minor={r.profit} currency={currency} sign />,
  },
  {
    key: "why",
    head: "Why",
    width: "minmax(220px, 1.6fr)",
    cell: (r) => {
      const words = r.undoes ? "a change was taken back" : r.reasons.join(" · ") || "put up";
      return <span title={words}>{words}</span>;
    },
  },
  {
    key: "who",
    head: "Who let it go",
    width: "minmax(120px, 0.7fr)",
    cell: (r) => (r.alone ? `the rule ${r.rule}`.trim() : r.sender),
  },
  { key: "state", head: "Outcome", width: "100px", cell: (r) => <Word tone={tones[r.state]}>{r.state}</Word> },
  {
    key: "words",
    head: "The marketplace said",
    width: "minmax(120px, 0.8fr)",
    cell: (r) => <span title={r.words}>{r.words || (r.answered ? `answered ${time(r.answered, now)}` : "")}</span>,
  },
  {
    key: "out",
    head: "Send-out",
    width: "70px",
    cell: (r) => (
      <Link to={`/send/${r.send_out_id}`}>
        <chakra.span textDecoration="underline">see</chakra.span>
      </Link>
    ),
  },
];
