import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { useCloseBook, useGetBook } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Quiet, Trouble, Word } from "../../parts/controls";
import { Money } from "../../parts/money";
import { time } from "../../parts/when";

type Row = Schemas["BookRow"];

/** monthBefore is the month before one, YYYY-MM. */
export function monthBefore(month: string, by = 1): string {
  const [y, m] = month.split("-").map(Number);
  const n = 12 * y + m - 1 - by;
  return `${Math.floor(n / 12)}-${String((n % 12) + 1).padStart(2, "0")}`;
}

/** Books are what was sold in a month by country and tax rate; closed, a month stays as it is. */
export function Books() {
  const a = useAddress();
  const { data: clock } = useClock();
  const now = clock?.now?.slice(0, 7) ?? "";
  const month = a.get("month") || now;
  const good = /^\d{4}-(0[1-9]|1[0-2])$/.test(month);
  const { data: b, error } = useGetBook({ path: { month } }, { enabled: good });
  const close = useCloseBook(() => ({ path: { month } }));
  return (
    <chakra.div overflowY="auto" flex="1" minH="0">
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        {good && (
          <Button size="small" aria-label="The month before" onClick={() => a.put({ month: monthBefore(month) })}>
            ←
          </Button>
        )}
        <chakra.label display="flex" gap="2" alignItems="center">
          Month
          <Input w="88px" h="28px" figures value={month} onChange={(e) => a.put({ month: e.target.value })} />
        </chakra.label>
        {good && month < now && (
          <Button size="small" aria-label="The month after" onClick={() => a.put({ month: monthBefore(month, -1) })}>
            →
          </Button>
        )}
        <chakra.span flex="1" />
        {b?.closed && (
          <Word tone="good">
            closed {time(b.closed, clock?.now)} by {b.closed_by}
          </Word>
        )}
        {good &&
          (["csv", "xlsx"] as const).map((kind) => (
            <a key={kind} href={`/api/v1/books/${month}/export.${kind}`} download>
              <Button as="span">{kind.toUpperCase()}</Button>
            </a>
          ))}
        {b && !b.closed && month < now && (
          <Button look="main" disabled={close.isPending} onClick={() => close.mutate(undefined)}>
            Close {month}
          </Button>
        )}
      </chakra.div>
      <Trouble error={error ?? close.error} />
      {b && b.rows.length === 0 && <Empty title="Nothing was sold in it" />}
      {b && b.rows.length > 0 && <Table rows={b.rows.filter((r) => !r.fee)} totals={b.totals} />}
      {b && <Apart rows={b.rows.filter((r) => r.fee)} totals={b.totals.filter((r) => r.fees !== 0)} />}
    </chakra.div>
  );
}

function Table({ rows, totals }: { rows: Row[]; totals: Row[] }) {
  return (
    <chakra.table
      aria-label="By country and tax rate"
      maxW="820px"
      w="100%"
      css={{
        "& td, & th": { padding: "4px 0 4px 12px", textAlign: "right" },
        "& td:first-of-type, & th:first-of-type, & td:nth-of-type(2), & th:nth-of-type(2)": {
          textAlign: "left",
          paddingLeft: 0,
        },
      }}
    >
      <thead>
        <chakra.tr color="quiet" fontSize="12.5px" borderBottomWidth="1px" borderColor="hair">
          <th>country</th>
          <th>corrects</th>
          <th>tax rate</th>
          <th>lines</th>
          <th>gross</th>
          <th>tax</th>
          <th>net</th>
        </chakra.tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <chakra.tr key={`${r.of} ${r.country} ${r.rate} ${r.currency}`} borderBottomWidth="1px" borderColor="hair">
            <td>{r.country || <Quiet>not known</Quiet>}</td>
            <td>{r.of}</td>
            <td>
              <Code color="ink">{r.rate}</Code>
            </td>
            <Figures row={r} />
          </chakra.tr>
        ))}
        {totals.map((r) => (
          <chakra.tr key={r.currency} fontWeight="700">
            <td>all in {r.currency}</td>
            <td />
            <td />
            <Figures row={r} />
          </chakra.tr>
        ))}
      </tbody>
    </chakra.table>
  );
}

/** Apart are the fees that belong to no order, by the names that their places give them. */
function Apart({ rows, totals }: { rows: Row[]; totals: Row[] }) {
  if (rows.length === 0) return null;
  return (
    <chakra.table
      aria-label="Fees of no order"
      maxW="820px"
      w="100%"
      mt="5"
      css={{
        "& td, & th": { padding: "4px 12px 4px 0", textAlign: "left" },
        "& :last-child": { textAlign: "right", paddingRight: 0 },
      }}
    >
      <thead>
        <chakra.tr color="quiet" fontSize="12.5px" borderBottomWidth="1px" borderColor="hair">
          <th>kept by</th>
          <th>for no order, as it calls it</th>
          <th>corrects</th>
          <th>fees</th>
        </chakra.tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <chakra.tr key={`${r.of} ${r.place} ${r.fee} ${r.currency}`} borderBottomWidth="1px" borderColor="hair">
            <td>{r.place}</td>
            <td>{r.fee}</td>
            <td>{r.of}</td>
            <td>
              <Money minor={r.fees} currency={r.currency} unit />
            </td>
          </chakra.tr>
        ))}
        {totals.map((r) => (
          <chakra.tr key={r.currency} fontWeight="700">
            <td>all in {r.currency}</td>
            <td />
            <td />
            <td>
              <Money minor={r.fees} currency={r.currency} unit />
            </td>
          </chakra.tr>
        ))}
      </tbody>
    </chakra.table>
  );
}

function Figures({ row: r }: { row: Row }) {
  return (
    <>
      <td>
        <Code color="ink">{r.lines}</Code>
      </td>
      {(["gross", "tax", "net"] as const).map((f) => (
        <td key={f}>
          <Money minor={r[f]} currency={r.currency} unit />
        </td>
      ))}
    </>
  );
}
