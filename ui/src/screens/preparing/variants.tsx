import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import {
  checkRepricing,
  useCreateOwnListings,
  useListOwnVariants,
  useRepriceListings,
  useSetListingOnSale,
  useUpdatePreparation,
} from "../../api/operations";
import { useAnswer } from "../../api/queries";
import { Button, Code, Head, Input, Quiet, Trouble, Word } from "../../parts/controls";
import { tone } from "../../parts/listings";
import { Money, money } from "../../parts/money";
import { Thumb } from "../../parts/picture";
import { toggled } from "../../parts/toggled";
import type { Prepared } from "./queries";
import { nameOf } from "./words";

type Row = Schemas["VariantRow"];

/** VariantGrid are all variants of a product on one site: which are sold, what
 * sets each apart, its number and price. They go up joined by one group. */
export function VariantGrid({ l }: { l: Prepared }) {
  const { data: g, error } = useListOwnVariants({ path: { id: l.id } });
  const [chosen, setChosen] = useState(new Set<number>());
  const say = useUpdatePreparation((x: { id: number; field: string; value: string }) => ({
    path: { id: x.id },
    body: { say: [{ field: x.field, values: [x.value] }] },
  }));
  const sell = useSetListingOnSale((x: { id: number; sold: boolean }) => ({
    path: { id: x.id },
    body: { sold: x.sold },
  }));
  const add = useCreateOwnListings((product: number) => ({
    path: { id: l.site_id },
    body: { products: [product], category: l.category },
  }));
  if (error) return <Trouble error={error} />;
  if (!g) return null;
  if (!g.group)
    return (
      <Quiet>Its supplier tells of no variants: it stands by itself. Variants come of rows that name a group.</Quiet>
    );
  const listed = g.rows.filter((r) => r.id > 0);
  const fill = (from: number, at: number) => {
    for (const r of g.rows.slice(from + 1))
      if (r.id > 0) say.mutate({ id: r.id, field: g.axes[at].field, value: g.rows[from].values[at] });
  };
  return (
    <section aria-label="Variants">
      <Quiet display="block" mb="2">
        They go up as one thing with {g.rows.length} variants. One that isn't ticked is offered as none here.
      </Quiet>
      <Trouble error={say.error ?? sell.error ?? add.error} />
      <chakra.table w="100%" borderCollapse="collapse" css={{ "& td, & th": { padding: "4px 6px" } }}>
        <thead>
          <tr>
            <Head left>Sell</Head>
            <Head left>Variant</Head>
            {g.axes.map((a) => (
              <Head left key={a.field}>
                {nameOf(a.field)}
              </Head>
            ))}
            <Head left>Number</Head>
            <Head>Stock</Head>
            <Head>Price</Head>
            <Head>Left</Head>
            <Head left>State</Head>
          </tr>
        </thead>
        <tbody>
          {g.rows.map((r, n) => (
            <chakra.tr
              key={r.product}
              borderTopWidth="1px"
              borderColor="hair"
              fontWeight={r.id === l.id ? "700" : "400"}
            >
              <td>
                {r.id > 0 && (
                  <input
                    type="checkbox"
                    aria-label={`Sell ${r.variant}`}
                    checked={r.sold}
                    onChange={(e) => sell.mutate({ id: r.id, sold: e.target.checked })}
                  />
                )}
              </td>
              <td>
                <chakra.span display="flex" gap="2" alignItems="center">
                  <Thumb digest={r.picture} />
                  {r.id > 0 ? (
                    <Link to={`/prepare/${r.id}?as=variants`}>
                      {r.variant} <Code>{r.sku}</Code>
                    </Link>
                  ) : (
                    <>
                      {r.variant}{" "}
                      <Button size="small" onClick={() => add.mutate(r.product)}>
                        List it too
                      </Button>
                    </>
                  )}
                </chakra.span>
              </td>
              {g.axes.map((a, at) => (
                <td key={a.field}>
                  {r.id > 0 && (
                    <Typed
                      r={r}
                      at={at}
                      axis={a}
                      last={n === g.rows.length - 1}
                      onKeep={(value) => say.mutate({ id: r.id, field: a.field, value })}
                      onFill={() => fill(n, at)}
                    />
                  )}
                </td>
              ))}
              <td>
                <Code>{r.number}</Code>
              </td>
              <chakra.td textAlign="right" fontFamily="mono">
                {r.id > 0 && r.stock}
              </chakra.td>
              <chakra.td textAlign="right">
                {r.id > 0 && (
                  <chakra.label display="inline-flex" gap="2" alignItems="center">
                    <Money minor={r.price} currency={r.currency} unit fontWeight="600" />{" "}
                    {r.fixed && <Word>by hand</Word>}
                    <input
                      type="checkbox"
                      aria-label={`Change the price of ${r.variant}`}
                      checked={chosen.has(r.id)}
                      onChange={() => setChosen((old) => toggled(old, r.id))}
                    />
                  </chakra.label>
                )}
              </chakra.td>
              <chakra.td textAlign="right">
                {r.id > 0 && <Money minor={r.profit} currency={r.currency} sign />}
              </chakra.td>
              <td>{r.id > 0 && <Word tone={tone(r.state)}>{r.stops > 0 ? `${r.stops} to do` : r.state}</Word>}</td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      <Pricing
        listed={listed}
        chosen={chosen}
        currency={l.currency}
        onAll={() => setChosen(new Set(listed.map((r) => r.id)))}
        onDone={() => setChosen(new Set())}
      />
    </section>
  );
}

type TypedProps = {
  r: Row;
  at: number;
  axis: Schemas["Axis"];
  last: boolean;
  onKeep: (value: string) => void;
  onFill: () => void;
};

function Typed({ r, at, axis, last, onKeep, onFill }: TypedProps) {
  const [value, setValue] = useState<string>();
  const shown = value ?? r.values[at];
  const keep = () => {
    if (value !== undefined && value !== r.values[at]) onKeep(value);
    setValue(undefined);
  };
  return (
    <chakra.span display="flex" gap="1" alignItems="center">
      <Input
        h="28px"
        w="128px"
        aria-label={`${nameOf(axis.field)} of ${r.variant}${r.wrong[at] ? `: ${r.wrong[at]}` : ""}`}
        aria-invalid={r.wrong[at] !== ""}
        title={r.wrong[at]}
        list={axis.values.length > 0 ? `values ${axis.field}` : undefined}
        value={shown}
        onChange={(e) => setValue(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
        }}
      />
      {!last && (
        <Button
          size="small"
          look="plain"
          title="The same in all below"
          aria-label={`The same ${nameOf(axis.field)} in all below`}
          onClick={onFill}
        >
          ↓
        </Button>
      )}
      <datalist id={`values ${axis.field}`}>
        {axis.values.map((v) => (
          <option key={v} value={v} />
        ))}
      </datalist>
    </chakra.span>
  );
}

type PricingProps = { listed: Row[]; chosen: Set<number>; currency: string; onAll: () => void; onDone: () => void };

/** Pricing sets the prices of the chosen variants by a figure or a rate, seen
 * before it is kept. */
function Pricing({ listed, chosen, currency, onAll, onDone }: PricingProps) {
  const [by, setBy] = useState("");
  const ids = [...chosen];
  const body = { listings: ids, ...(by.startsWith("=") ? { to: by.slice(1) } : { by }) };
  const look = useAnswer(
    ["variants", "reprice", body],
    (signal) => checkRepricing({ body }, signal),
    ids.length > 0 && by.replace(/[-=+%]/g, "") !== "",
  );
  const keep = useRepriceListings((release: boolean) => ({
    body: release ? { listings: ids, release } : body,
  }));
  const done = () => {
    setBy("");
    onDone();
  };
  const names = new Map(listed.map((r) => [r.id, r.variant]));
  return (
    <chakra.form
      mt="3"
      onSubmit={(e) => {
        e.preventDefault();
        if (look.data) keep.mutate(false, { onSuccess: done });
      }}
    >
      <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
        <Button size="small" onClick={onAll}>
          Choose all
        </Button>
        <span>
          {ids.length} {ids.length === 1 ? "price changes" : "prices change"} by
        </span>
        <Input
          figures
          w="100px"
          h="30px"
          aria-label="By how much"
          placeholder="+5%"
          value={by}
          onChange={(e) => setBy(e.target.value)}
        />
        <Quiet fontSize="12.5px">a rate such as −5%, a figure such as 1.50, or =12.99 for all</Quiet>
        <Button
          look="main"
          type="submit"
          disabled={!look.data || !!look.error || look.isFetching || ids.length === 0 || keep.isPending}
        >
          Fix {ids.length} {ids.length === 1 ? "price" : "prices"}
        </Button>
        <Button size="small" disabled={ids.length === 0} onClick={() => keep.mutate(true, { onSuccess: done })}>
          Back to their rule
        </Button>
      </chakra.div>
      <Trouble error={keep.error ?? look.error} />
      {ids.length > 0 &&
        by !== "" &&
        look.data?.map((m) => (
          <chakra.div key={m.listing_id} display="flex" gap="3" py="0.5">
            <chakra.span w="180px" truncate>
              {names.get(m.listing_id)}
            </chakra.span>
            <chakra.span fontFamily="mono">
              {m.from == null ? "none" : money(m.from, currency)} →{" "}
              <b>{m.to == null ? "none" : money(m.to, currency)}</b>
            </chakra.span>
            <Money minor={m.profit} currency={currency} sign />
            {m.refused && <chakra.span color="loss">{m.refused}</chakra.span>}
          </chakra.div>
        ))}
    </chakra.form>
  );
}
