import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { backtestRule } from "../../api/operations";
import { useDo } from "../../api/queries";
import { Course, type Moment } from "../../parts/charts";
import { Button, Head, Quiet, Trouble } from "../../parts/controls";
import { Money, money } from "../../parts/money";
import { useWidth } from "../../parts/width";

type View = Schemas["ReplayView"];
type Past = Schemas["PastView"];

/** Replay runs a rule as it is written over the days that were recorded, and
 * shows what it would have done beside what really happened. */
export function Replay({ site, rule, wrong }: { site: number; rule: Schemas["NamedRule"]; wrong: boolean }) {
  const [asked, setAsked] = useState("");
  const run = useDo(() => backtestRule({ path: { id: site }, query: { days: 60 }, body: rule }));
  const text = JSON.stringify(rule);
  return (
    <chakra.section aria-label="Replay" borderTopWidth="1px" borderColor="hair" mt="4" pt="3" pb="4">
      <chakra.div display="flex" gap="3" alignItems="center">
        <chakra.h3 fontWeight="700" flex="1">
          What it would have done
        </chakra.h3>
        <Button
          size="small"
          disabled={wrong || run.isPending}
          onClick={() => {
            setAsked(text);
            run.mutate(undefined);
          }}
        >
          {run.isPending ? "Running…" : "Replay the last 60 days"}
        </Button>
      </chakra.div>
      <Trouble error={run.error} />
      {run.data && (
        <chakra.div opacity={asked === text ? 1 : 0.5}>
          {asked !== text && <Quiet>The rule has changed since; replay it again.</Quiet>}
          <Shown view={run.data} />
        </chakra.div>
      )}
    </chakra.section>
  );
}

function Shown({ view: v }: { view: View }) {
  const { ref, width } = useWidth<HTMLDivElement>(380);
  if (v.listings === 0) return <Quiet>Nothing that it holds is on sale, so there is nothing to replay.</Quiet>;
  const until = v.to;
  const points = (value: (d: View["days"][number]) => number | null): Moment[] =>
    v.days.map((d) => ({ at: `${d.day}T00:00:00Z`, value: value(d) }));
  return (
    <div ref={ref}>
      <Quiet>
        {v.all ? `All ${v.listings} on sale that it holds` : `${v.listings} of those it holds`}, with costs, stock and
        rivals as they were; fees and exchange rates as they are now. What is held stays undone.
      </Quiet>
      <chakra.table w="100%" my="2">
        <thead>
          <tr>
            <Head left>In {v.days.length} days</Head>
            <Head>this rule</Head>
            <Head>what happened</Head>
          </tr>
        </thead>
        <tbody>
          <Count name="moves of prices" pick={(p) => String(p.moves)} view={v} />
          <Count name="days as the lowest" pick={(p) => p.lowest.toFixed(1)} view={v} />
          <Count name="days as the leading" pick={(p) => p.leading.toFixed(1)} view={v} />
          <Count name="days on sale" pick={(p) => p.on_sale.toFixed(1)} view={v} />
          <Count name="days sold at a loss" pick={(p) => p.at_loss.toFixed(1)} view={v} />
          <Amount name="least profit of a sale" pick={(p) => p.least} view={v} />
          <Amount name="mean profit of a sale" pick={(p) => p.mean} view={v} />
        </tbody>
      </chakra.table>
      <chakra.p mb="2">
        {v.then.unkept > 0
          ? `Its floor held the price up on ${v.then.unkept.toFixed(1)} days. `
          : "Its floor never had to hold the price up. "}
        {v.then.held > 0 && `${v.then.held} moves would have waited for you.`}
      </chakra.p>
      <Quiet>Mean profit of a sale, {v.currency}</Quiet>
      <Course
        label={`Mean profit of a sale by the rule and in truth, ${v.currency}`}
        width={width}
        height={120}
        until={until}
        show={(x) => money(x, v.currency)}
        curves={[
          { name: "this rule", tone: "strip.left", width: 2.25, points: points((d) => d.mean[0]) },
          { name: "what happened", tone: "strip.cost", dash: "4 2", points: points((d) => d.mean[1]) },
        ]}
      />
      <Quiet>Listings that were the lowest</Quiet>
      <Course
        label="Listings that asked no more than the lowest rival, by the rule and in truth"
        width={width}
        height={100}
        until={until}
        from={0}
        show={String}
        curves={[
          { name: "this rule", tone: "strip.left", width: 2.25, points: points((d) => d.lowest[0]) },
          { name: "what happened", tone: "strip.cost", dash: "4 2", points: points((d) => d.lowest[1]) },
        ]}
      />
      {v.rows.length > 0 && (
        <>
          <chakra.h4 fontWeight="700" fontSize="12.5px" color="quiet" mt="3">
            Those that differ most, mean profit of a sale
          </chakra.h4>
          {v.rows.slice(0, 8).map((r) => (
            <chakra.div key={r.listing_id} display="flex" gap="3" borderTopWidth="1px" borderColor="hair" py="0.5">
              <chakra.span flex="1" minW="0" truncate>
                <Link to={`/watch/listings/${r.listing_id}`}>{r.title}</Link>
              </chakra.span>
              <Money minor={r.then.mean} currency={v.currency} sign />
              <Money minor={r.was.mean} currency={v.currency} color="quiet" />
            </chakra.div>
          ))}
        </>
      )}
    </div>
  );
}

type RowProps<T> = { name: string; pick: (p: Past) => T; view: View };

function Count({ name, pick, view }: RowProps<string>) {
  return (
    <chakra.tr borderTopWidth="1px" borderColor="hair">
      <chakra.td py="0.5">{name}</chakra.td>
      <chakra.td textAlign="right" fontFamily="mono" fontWeight="600">
        {pick(view.then)}
      </chakra.td>
      <chakra.td textAlign="right" fontFamily="mono" color="quiet">
        {pick(view.was)}
      </chakra.td>
    </chakra.tr>
  );
}

function Amount({ name, pick, view }: RowProps<number | null>) {
  return (
    <chakra.tr borderTopWidth="1px" borderColor="hair">
      <chakra.td py="0.5">
        {name}, {view.currency}
      </chakra.td>
      <chakra.td textAlign="right">
        <Money minor={pick(view.then)} currency={view.currency} sign fontWeight="600" />
      </chakra.td>
      <chakra.td textAlign="right">
        <Money minor={pick(view.was)} currency={view.currency} color="quiet" />
      </chakra.td>
    </chakra.tr>
  );
}
