import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listPlanLines, submitPlan, useSubmitPlan } from "../../api/operations";
import { useDo } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Behind } from "../../parts/behind";
import { Button, Code, Empty, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { How, HowButton, useHow } from "../../parts/how";
import { useKeys } from "../../parts/keys";
import { Money, money } from "../../parts/money";
import { Next } from "../../parts/next";
import { ListingPanel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { MarginStrip } from "../../parts/strip";
import { toggled } from "../../parts/toggled";

type Line = Schemas["PlanRow"];
type Group = Schemas["PlanGroup"];

/** Plan is what should change on a site, or on all, with why. Nothing goes before
 * it is sent from here, or by a rule that may. */
export function Plan({ plan }: { plan: Schemas["PlanView"] }) {
  const a = useAddress();
  const go = useNavigate();
  const kind = a.get("kind");
  // What goes is every line that may, less those taken out by hand, plus held ones that were looked at and chosen.
  const [out, setOut] = useState<Set<number>>(new Set());
  const [held, setHeld] = useState<Set<number>>(new Set());
  const one = plan.id > 0; // all sites together are looked at; each is sent by itself
  const list = useParts(
    listPlanLines,
    { path: { id: plan.id }, query: { kind: kind || undefined } },
    plan.groups.length > 0,
  );
  const groups = plan.groups.filter((g) => !kind || g.kind === kind);
  const may = groups.reduce((n, g) => n + g.go, 0);
  const n = may - out.size + held.size;
  const chosen = new Set(
    list.rows.filter((l) => (l.verdict === "go" ? !out.has(l.id) : held.has(l.id))).map((l) => l.id),
  );
  const how = useHow(plan.groups.length > 0);
  const { at, over_minutes } = how.body;
  const send = useSubmitPlan((lines?: number[]) => ({
    path: { id: plan.id },
    body: lines ? { lines } : { except: [...out], held: [...held], kind: kind || undefined, at, over_minutes },
  }));
  // Of all sites together, each site's plan goes by itself: all that may go of it.
  const everywhere = useDo(async () => {
    let sent = 0;
    for (const x of plan.sites.filter((x) => x.sends)) {
      const got = await submitPlan({ path: { id: x.plan_id }, body: { kind: kind || undefined, at, over_minutes } });
      sent += got.send_outs.length;
    }
    return sent;
  });
  const act = () => {
    if (!one) {
      if (n > 0 && !everywhere.isPending)
        everywhere.mutate(undefined, { onSuccess: (sent) => sent > 0 && go("/send?tab=out") });
      return;
    }
    if (n < 1 || send.isPending) return;
    send.mutate(undefined, {
      onSuccess: (s) => {
        if (s.send_outs.length) go(`/send/${s.send_outs[0]}`, { state: s });
      },
    });
  };
  const sendOne = (l: Line) => l.verdict !== "blocked" && one && !send.isPending && send.mutate([l.id]);
  const flip = (l: Line) => {
    if (l.verdict === "go") setOut(toggled(out, l.id));
    else if (l.verdict === "held") setHeld(toggled(held, l.id));
  };
  const show = (k: string) => {
    setOut(new Set());
    setHeld(new Set());
    a.put({ kind: k === kind ? null : k, open: null });
  };
  useKeys({ ".": act }, true, [[".", "send what is chosen"]]);
  if (plan.groups.length === 0)
    return (
      <Empty title="Nothing has to change">
        Prices and quantities on the marketplaces are what they should be. When a supplier's cost or stock moves, what
        to do about it stands here.
        <Next except={["watch"]} />
      </Empty>
    );
  const opened = list.rows.find((l) => l.id === a.open);
  return (
    <>
      <chakra.div display="flex" gap="4" alignItems="stretch" pt="2" pb="2">
        <Consequences groups={plan.groups} kind={kind} onShow={show} />
        <chakra.div display="flex" flexDirection="column" alignItems="flex-end" gap="1" justifyContent="center">
          <Button look="main" disabled={n < 1 || send.isPending || everywhere.isPending} onClick={act}>
            {n < 1 ? "Choose what to send" : `Send ${n} ${n === 1 ? "change" : "changes"}`}
            {!one && n > 0 && " everywhere"} <Key>.</Key>
          </Button>
          <HowButton how={how} />
          <Mode plan={plan} />
        </chakra.div>
      </chakra.div>
      <How how={how} />
      <Trouble error={send.error ?? everywhere.error ?? list.error} />
      <Behind n={send.data?.reworked ?? 0} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="The plan"
          list={list}
          selected={one ? chosen : undefined}
          onSelect={one ? flip : undefined}
          open={a.open}
          onOpen={(l) => a.setOpen(l.id)}
          group={(l, before) =>
            l.kind !== before?.kind ? <Heading group={plan.groups.find((g) => g.kind === l.kind)} /> : null
          }
          columns={
            opened
              ? columns.filter((c) => c.key === "title" || c.key === "change" || c.key === "after")
              : one
                ? columns
                : [columns[0], site, ...columns.filter((c) => !["title", "sku", "strip"].includes(c.key))]
          }
        />
        {opened && (
          <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)}>
            <Reasons line={opened} onSend={one ? () => sendOne(opened) : undefined} busy={send.isPending} />
          </ListingPanel>
        )}
      </chakra.div>
    </>
  );
}

/** Consequences are what the plan comes to: each with its number and its money,
 * and each shows its group alone. */
function Consequences({ groups, kind, onShow }: { groups: Group[]; kind: string; onShow: (kind: string) => void }) {
  return (
    <chakra.div role="group" aria-label="What it comes to" display="flex" flex="1" minW="0" gap="0" overflow="hidden">
      {groups.map((g) => (
        <chakra.button
          key={g.kind}
          type="button"
          aria-pressed={kind === g.kind}
          onClick={() => onShow(g.kind)}
          flex="1 1 0"
          minW="0"
          textAlign="left"
          px="3"
          py="1"
          cursor="pointer"
          borderLeftWidth="3px"
          borderColor={g.first ? "loss" : kind === g.kind ? "ink" : "hair"}
          bg={kind === g.kind ? "band" : "transparent"}
          _hover={{ bg: "band" }}
        >
          <chakra.span display="flex" gap="2" alignItems="baseline">
            <chakra.span fontFamily="mono" fontSize="18px" fontWeight="600">
              {g.lines}
            </chakra.span>
            <chakra.span fontWeight="600" truncate>
              {g.name}
            </chakra.span>
          </chakra.span>
          <chakra.span display="block" fontSize="12px" color="quiet" truncate title={g.words}>
            {[g.held > 0 && `${g.held} held`, g.blocked > 0 && `${g.blocked} blocked`, g.short]
              .filter(Boolean)
              .join(" · ") || (g.first ? "go out first" : "may go")}
          </chakra.span>
        </chakra.button>
      ))}
    </chakra.div>
  );
}

const modes: Record<string, string> = {
  "by hand": "Goes by hand",
  alone: "Goes on its own; held ones wait",
  "first week": "First week: only says what it would do",
};

/** Mode says whether what may go waits for a person. */
function Mode({ plan }: { plan: Schemas["PlanView"] }) {
  if (!modes[plan.runs]) return null;
  return (
    <Link to={`/watch?tab=follow&site=${plan.site_id}`}>
      <chakra.span fontSize="12px" color="quiet" textDecoration="underline">
        {modes[plan.runs]}
      </chakra.span>
    </Link>
  );
}

/** Reasons are why a line stands in the plan, and its own way to be let go. */
function Reasons({ line: l, onSend, busy }: { line: Line; onSend?: () => void; busy: boolean }) {
  return (
    <chakra.section aria-label="Why it should change" borderBottomWidth="1px" borderColor="hair" pb="2" mb="2">
      <chakra.div display="flex" gap="2" alignItems="center" mb="1">
        <Change line={l} />
        {l.verdict !== "go" && <Word tone="bad">{l.verdict}</Word>}
        <chakra.span flex="1" />
        {onSend && l.verdict !== "blocked" && (
          <Button size="small" disabled={busy} onClick={onSend}>
            {l.verdict === "held" ? "Let it go" : "Send this one"}
          </Button>
        )}
      </chakra.div>
      {l.verdict_why && <chakra.p color="loss">{l.verdict_why}</chakra.p>}
      {l.reasons.map((r) => (
        <p key={r}>{r}</p>
      ))}
    </chakra.section>
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

const site: Column<Line> = { key: "site", head: "Site", width: "130px", cell: (l) => l.site };

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
