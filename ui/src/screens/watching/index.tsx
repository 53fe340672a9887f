import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, read, type Schemas } from "../../api/client";
import { useClock, useDo, useParts } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Behind } from "../../parts/behind";
import { Button, Code, Empty, Key, Quiet, Select, Title, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money, money } from "../../parts/money";
import { Next } from "../../parts/next";
import { ListingPanel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { MarginStrip } from "../../parts/strip";
import { toggled } from "../../parts/toggled";
import { time } from "../../parts/when";
import { usePlan } from "./queries";

type Line = Schemas["PlanRow"];
type Group = Schemas["PlanGroup"];

/** Watch is the plan: what should change on the marketplaces, and why. Nothing goes before it is sent from here. */
export function Watch() {
  const a = useAddress();
  const { data: plan, error, refetch } = usePlan(Number(a.get("site")) || undefined);
  return (
    <>
      {plan && plan.id > 0 ? (
        <Plan key={plan.id} plan={plan} />
      ) : (
        <>
          <Title title="Watch" />
          <Trouble error={error} retry={refetch} />
          {plan && (
            <Empty title="Nothing has to change">
              Prices and quantities on the marketplaces are what they should be. When a supplier's cost or stock moves,
              what to do about it stands here.
              <Next except={["watch"]} />
            </Empty>
          )}
        </>
      )}
    </>
  );
}

function Plan({ plan }: { plan: Schemas["PlanView"] }) {
  const a = useAddress();
  const go = useNavigate();
  const { data: clock } = useClock();
  // What goes is every line that may, less those taken out by hand, plus held ones that were looked at and chosen.
  const [out, setOut] = useState<Set<number>>(new Set());
  const [held, setHeld] = useState<Set<number>>(new Set());
  const list = useParts<Line>(["plan", plan.id, "lines"], (p) =>
    read(api.GET("/api/plans/{id}/lines", { params: { path: { id: plan.id }, query: p } })),
  );
  const total = plan.groups.reduce((n, g) => n + g.lines, 0);
  const may = plan.groups.reduce((n, g) => n + g.go, 0);
  const n = may - out.size + held.size;
  const chosen = new Set(
    list.rows.filter((l) => (l.verdict === "go" ? !out.has(l.id) : held.has(l.id))).map((l) => l.id),
  );
  const send = useDo(
    () =>
      read(
        api.POST("/api/plans/{id}/send", {
          params: { path: { id: plan.id } },
          body: { except: [...out], held: [...held] },
        }),
      ),
    "plan",
    "sendouts",
    "runs",
  );
  const act = () => {
    if (n < 1 || send.isPending) return;
    send.mutate(undefined, {
      onSuccess: (s) => {
        if (s.send_outs.length) go(`/send/${s.send_outs[0]}`, { state: s });
      },
    });
  };
  const flip = (l: Line) => {
    if (l.verdict === "go") setOut(toggled(out, l.id));
    else if (l.verdict === "held") setHeld(toggled(held, l.id));
  };
  useKeys({ ".": act }, true, [[".", "send what is chosen"]]);
  const opened = list.rows.find((l) => l.id === a.open);
  return (
    <>
      <Title
        title={`${total} ${total === 1 ? "change" : "changes"} to make`}
        more={
          plan.reworked
            ? `on ${plan.site}; ${plan.reworked} ${plan.reworked === 1 ? "listing is" : "listings are"} being worked out again`
            : `on ${plan.site}, worked out ${time(plan.made, clock?.now)}`
        }
      >
        {plan.sites.length > 1 && (
          <Select aria-label="Site" value={plan.site_id} onChange={(e) => a.put({ site: e.target.value, open: null })}>
            {plan.sites.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </Select>
        )}
        <Button look="main" disabled={n < 1 || send.isPending} onClick={act}>
          {n < 1 ? "Choose what to send" : `Send ${n} ${n === 1 ? "change" : "changes"}`} <Key>.</Key>
        </Button>
      </Title>
      <Trouble error={send.error ?? list.error} />
      <Behind n={send.data?.reworked ?? 0} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="The plan"
          list={list}
          selected={chosen}
          onSelect={flip}
          open={a.open}
          onOpen={(l) => a.setOpen(l.id)}
          group={(l, before) =>
            l.kind !== before?.kind ? <Heading group={plan.groups.find((g) => g.kind === l.kind)} /> : null
          }
          columns={
            opened ? columns.filter((c) => c.key === "title" || c.key === "change" || c.key === "after") : columns
          }
        />
        {opened && <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

function Heading({ group: g }: { group?: Group }) {
  if (!g) return null;
  return (
    <chakra.span display="flex" gap="2" alignItems="baseline">
      <chakra.span fontWeight="700">{g.name}</chakra.span>
      <Quiet>
        {g.lines} {g.lines === 1 ? "listing" : "listings"}
        {g.first && " · go out first"}
        {g.held > 0 && ` · ${g.held} held`}
      </Quiet>
      <chakra.span flex="1" textAlign="right" fontFamily="mono" fontSize="12.5px">
        {g.words}
      </chakra.span>
    </chakra.span>
  );
}

function Change({ line: l }: { line: Line }) {
  const arrow = (from: React.ReactNode, to: React.ReactNode) => (
    <chakra.span fontFamily="mono" whiteSpace="nowrap">
      {from} → <chakra.b fontWeight="700">{to}</chakra.b>
    </chakra.span>
  );
  if (l.to_price != null && l.from_price != null)
    return arrow(money(l.from_price, l.currency), `${money(l.to_price, l.currency)} ${l.currency}`);
  return arrow(l.from_quantity, `${l.to_quantity} offered`);
}

const columns: Column<Line>[] = [
  {
    key: "title",
    head: "Product",
    width: "minmax(170px, 1fr)",
    cell: (l) => <Pictured digest={l.picture}>{l.title}</Pictured>,
  },
  { key: "sku", head: "SKU", width: "84px", cell: (l) => <Code>{l.sku}</Code> },
  { key: "change", head: "Change", width: "178px", cell: (l) => <Change line={l} /> },
  {
    key: "strip",
    head: "Where the price goes",
    width: "minmax(138px, 0.5fr)",
    cell: (l) => <MarginStrip figures={l} currency={l.currency} />,
  },
  {
    key: "was",
    head: "Left now",
    width: "66px",
    right: true,
    cell: (l) => (
      <Money minor={l.profit_was} currency={l.currency} color={(l.profit_was ?? 0) < 0 ? "loss" : "quiet"} />
    ),
  },
  {
    key: "after",
    head: "After",
    width: "66px",
    right: true,
    cell: (l) => <Money minor={l.profit_new} currency={l.currency} sign fontWeight="600" />,
  },
  {
    key: "why",
    head: "Why",
    width: "minmax(200px, 1.1fr)",
    cell: (l) => (
      <chakra.span fontSize="12.5px" title={[l.verdict_why, ...l.reasons].filter(Boolean).join(" · ")}>
        {l.verdict !== "go" && <Word tone="bad">{l.verdict}</Word>}{" "}
        {l.verdict !== "go" ? l.verdict_why : l.reasons.join(" · ")}
      </chakra.span>
    ),
  },
];
