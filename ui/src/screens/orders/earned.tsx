import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetEarnings } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { Money, money } from "../../parts/money";
import { day, shifted } from "../../parts/when";
import { OverTime } from "./overtime";
import { Idle, Losses } from "./unearned";

type Row = Schemas["EarnedRow"];
type By = "day" | "month" | "site" | "supplier" | "category" | "product";

const bys: [By, string][] = [
  ["day", "day"],
  ["month", "month"],
  ["site", "site"],
  ["supplier", "supplier"],
  ["category", "category"],
  ["product", "product"],
];

/** beside are two further looks at the same time. */
const beside = [
  ["losses", "what lost money"],
  ["idle", "what wasn't sold"],
] as const;

/** Earned is what was earned in a time, by one thing: each row adds up to what is
 * left, and opens into its orders. */
export function Earned() {
  const a = useAddress();
  const { data: clock } = useClock();
  const today = clock?.now.slice(0, 10) ?? "";
  const other = beside.find(([k]) => k === a.get("by"))?.[0];
  const by = (bys.some(([k]) => k === a.get("by")) ? a.get("by") : "day") as By;
  const from = a.get("from") || shifted(today, -29);
  const to = a.get("to") || today;
  const { data, error } = useGetEarnings({ query: { by, from, to } }, { keep: true, enabled: today !== "" && !other });
  const whole = (days: number) => a.put({ from: shifted(today, 1 - days), to: today });
  return (
    <chakra.div overflowY="auto" flex="1" minH="0">
      <chakra.div display="flex" gap="3" alignItems="center" py="2" flexWrap="wrap">
        <chakra.label display="flex" gap="2" alignItems="center">
          Show
          <Select h="28px" value={other ?? by} onChange={(e) => a.put({ by: e.target.value })}>
            {bys.map(([k, words]) => (
              <option key={k} value={k}>
                by {words}
              </option>
            ))}
            {beside.map(([k, words]) => (
              <option key={k} value={k}>
                {words}
              </option>
            ))}
          </Select>
        </chakra.label>
        <chakra.label display="flex" gap="2" alignItems="center">
          from
          <Input w="112px" h="28px" figures value={from} onChange={(e) => a.put({ from: e.target.value })} />
        </chakra.label>
        {other !== "idle" && (
          <chakra.label display="flex" gap="2" alignItems="center">
            to
            <Input w="112px" h="28px" figures value={to} onChange={(e) => a.put({ to: e.target.value })} />
          </chakra.label>
        )}
        {[7, 30, 90].map((n) => (
          <Button key={n} size="small" onClick={() => whole(n)}>
            {n} days
          </Button>
        ))}
      </chakra.div>
      <Trouble error={error} />
      {today && other === "losses" && <Losses from={from} to={to} />}
      {today && other === "idle" && <Idle from={from} />}
      {!other && data && data.rows.length === 0 && (
        <Empty title="Nothing was sold then">What is sold counts from the day it was placed.</Empty>
      )}
      {(other ? [] : (data?.totals ?? [])).map((t) => (
        <OfCurrency
          key={t.currency}
          by={by}
          from={from}
          to={to}
          total={t}
          rows={(data?.rows ?? []).filter((r) => r.currency === t.currency)}
          link={(r) => linkOf(by, r, from, to)}
          apart={(data?.apart ?? []).filter((x) => x.currency === t.currency)}
        />
      ))}
    </chakra.div>
  );
}

/** linkOf is where the orders behind a row are. */
function linkOf(by: By, r: Row, from: string, to: string): string {
  const q = new URLSearchParams({ part: "all", from, to });
  if (by === "day") {
    q.set("from", r.key);
    q.set("to", r.key);
  } else if (by === "month") {
    q.set("from", `${r.key}-01` < from ? from : `${r.key}-01`);
    const last = shifted(shifted(`${r.key}-01`, 31).slice(0, 8).concat("01"), -1);
    q.set("to", last > to ? to : last);
  } else if (r.key) q.set(by, r.key);
  return `/orders?${q}`;
}

type Props = {
  by: By;
  from: string;
  to: string;
  total: Row;
  rows: Row[];
  link: (r: Row) => string;
  apart: Schemas["ApartFee"][]; // what places kept for no order
};

const figures = ["sales", "tax", "fees", "cost", "sending", "other", "refunds"] as const;

/** OfCurrency are the rows of one currency, drawn and as a table. */
function OfCurrency({ by, from, to, total, rows, link, apart }: Props) {
  const c = total.currency;
  const shown = (r: Row) => (by === "day" ? day(r.key) : r.name);
  const kept = apart.reduce((sum, x) => sum + x.amount, 0);
  const more = total.left + kept - total.expected; // nothing of them was expected of a sale
  return (
    <chakra.section aria-label={`Earned, ${c}`} pb="6">
      <chakra.div display="flex" gap="8" alignItems="flex-end" pb="2">
        <div>
          <Money minor={total.left} currency={c} unit sign fontSize="24px" fontWeight="700" />
          <Quiet display="block" fontSize="12.5px">
            left of {money(total.sales, c)} that buyers paid, {total.lines} {total.lines === 1 ? "line" : "lines"}
          </Quiet>
        </div>
        <Quiet>
          {more === 0
            ? "as was expected"
            : `${money(Math.abs(more), c)} ${c} ${more > 0 ? "more" : "less"} than was expected`}
          {total.losses > 0 && `; ${total.losses} at a loss`}
          {total.unknown > 0 && `; of ${total.unknown} what they cost isn't known`}
          {apart.length > 0 && (
            <chakra.span display="block">
              {money(kept, c)} of the fees belong to no order:{" "}
              {apart.map((x) => `${x.kind} ${money(x.amount, c)} (${x.site})`).join(", ")}
            </chakra.span>
          )}
        </Quiet>
      </chakra.div>
      {(by === "day" || by === "month") && <OverTime by={by} from={from} to={to} rows={rows} currency={c} />}
      <chakra.table
        aria-label={`Earned by ${by}, ${c}`}
        w="100%"
        css={{
          "& td, & th": { padding: "4px 0 4px 12px", textAlign: "right" },
          "& td:first-of-type, & th:first-of-type": { textAlign: "left", paddingLeft: 0 },
        }}
      >
        <thead>
          <chakra.tr color="quiet" fontSize="12.5px" borderBottomWidth="1px" borderColor="hair">
            <th>{bys.find(([k]) => k === by)?.[1]}</th>
            <th>units</th>
            <th>sales</th>
            <th>tax</th>
            <th>fees</th>
            <th>goods</th>
            <th>sending</th>
            <th>set aside</th>
            <th>given back</th>
            <th>left</th>
            <th>expected</th>
          </chakra.tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <chakra.tr key={r.key} borderBottomWidth="1px" borderColor="hair">
              <td>
                {r.lines === 0 ? (
                  shown(r)
                ) : (
                  <Link to={link(r)}>
                    <chakra.span textDecoration="underline">{shown(r)}</chakra.span>
                  </Link>
                )}
              </td>
              <Figures row={r} />
            </chakra.tr>
          ))}
          <chakra.tr fontWeight="700">
            <td>all</td>
            <Figures row={total} />
          </chakra.tr>
        </tbody>
      </chakra.table>
    </chakra.section>
  );
}

function Figures({ row: r }: { row: Row }) {
  return (
    <>
      <td>
        <Code color="ink">{r.units}</Code>
      </td>
      {figures.map((f) => (
        <td key={f}>{r[f] === 0 ? <Quiet>–</Quiet> : <Money minor={r[f]} currency={r.currency} />}</td>
      ))}
      <td>
        <Money minor={r.left} currency={r.currency} sign fontWeight="700" />
      </td>
      <td>
        <Money minor={r.expected} currency={r.currency} color="quiet" />
      </td>
    </>
  );
}
