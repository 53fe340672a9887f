import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { api, read, type Schemas } from "../api/client";
import { type Listing, useDo } from "../api/queries";
import { Button, Code, Input, Quiet, Trouble } from "./controls";
import { Fault, faults } from "./field";
import { money, plain } from "./money";

type ByHandProps = { listing: Listing; x: Schemas["Explained"] };

/** ByHand is what a person can settle for one listing alone: its price, its
 * rule, its former price and who sends it. */
export function ByHand({ listing: l, x }: ByHandProps) {
  const [price, setPrice] = useState("");
  const fix = useDo(
    (body: Schemas["Repricing"]) => read(api.POST("/api/listings/reprice", { body })),
    "listings",
    "plan",
    "rules",
  );
  const wrong = faults(fix.error);
  const path = { params: { path: { id: l.id } } };
  const store = useDo(
    (warehouse: boolean) => read(api.PUT("/api/listings/{id}/warehouse", { ...path, body: { warehouse } })),
    "listings",
    "plan",
  );
  return (
    <>
      {x.fixed ? (
        <chakra.div display="flex" gap="3" alignItems="center" py="1">
          <chakra.span flex="1">The price was fixed by hand and stays.</chakra.span>
          <Button
            size="small"
            disabled={fix.isPending}
            onClick={() => fix.mutate({ listings: [l.id], release: true, keep: true })}
          >
            Release it
          </Button>
        </chakra.div>
      ) : (
        <chakra.form
          display="flex"
          gap="2"
          alignItems="center"
          py="1"
          onSubmit={(e) => {
            e.preventDefault();
            fix.mutate({ listings: [l.id], to: price, keep: true }, { onSuccess: () => setPrice("") });
          }}
        >
          <chakra.label flex="1" display="flex" gap="2" alignItems="center">
            Fix the price at
            <Input
              figures
              h="28px"
              w="90px"
              value={price}
              placeholder={l.price == null ? "" : money(l.price, l.currency)}
              onChange={(e) => setPrice(e.target.value)}
            />
            {l.currency}
          </chakra.label>
          <Button type="submit" size="small" disabled={fix.isPending || !price.trim()}>
            Fix it
          </Button>
        </chakra.form>
      )}
      <Fault>{wrong.of("to", "by")}</Fault>
      <Trouble error={wrong.rest} />
      <Former listing={l} x={x} />
      {(x.can_store || x.warehouse) && (
        <chakra.label display="flex" gap="2" alignItems="center" py="1">
          <input
            type="checkbox"
            checked={x.warehouse}
            disabled={store.isPending}
            onChange={(e) => store.mutate(e.target.checked)}
          />
          {l.site}'s warehouse keeps and sends it {x.step && <Quiet>as {x.step}</Quiet>}
        </chakra.label>
      )}
      <Trouble error={store.error} />
      <chakra.div display="flex" gap="4" py="1">
        <Go to={`/price?tab=bench&site=${x.site_id}&product=${l.product_id}`}>Try prices on the bench</Go>
        <Go to={`/price?tab=rules&site=${x.site_id}&own=${l.id}`}>
          {x.own_rule ? "Its own rule" : "Give it a rule of its own"}
        </Go>
      </chakra.div>
    </>
  );
}

function Go({ to, children }: { to: string; children: React.ReactNode }) {
  return (
    <Link to={to}>
      <chakra.span textDecoration="underline" textUnderlineOffset="3px">
        {children}
      </chakra.span>
    </Link>
  );
}

/** Former sets a former price to show crossed out; what speaks against it is said. */
function Former({ listing: l, x }: ByHandProps) {
  const [former, setFormer] = useState<string | null>(null);
  const keep = useDo(
    (former: string) =>
      read(api.PUT("/api/listings/{id}/former", { params: { path: { id: l.id } }, body: { former } })),
    "listings",
  );
  const wrong = faults(keep.error);
  return (
    <chakra.form
      py="1"
      onSubmit={(e) => {
        e.preventDefault();
        if (former !== null) keep.mutate(former.trim(), { onSuccess: () => setFormer(null) });
      }}
    >
      <chakra.div display="flex" gap="2" alignItems="center">
        <chakra.label flex="1" display="flex" gap="2" alignItems="center">
          Former price, crossed out
          <Input
            figures
            h="28px"
            w="90px"
            placeholder="none"
            value={former ?? (x.crossed == null ? "" : plain(x.crossed, l.currency))}
            onChange={(e) => setFormer(e.target.value)}
          />
          {former === null && x.former && x.former.percent > 0 && <Code color="ink">−{x.former.percent} %</Code>}
        </chakra.label>
        <Button type="submit" size="small" disabled={keep.isPending || former === null}>
          Keep
        </Button>
      </chakra.div>
      <Fault>
        {wrong.of("former") ?? (former === null && x.former?.warning ? `Mind: ${x.former.warning}.` : undefined)}
      </Fault>
      <Trouble error={wrong.rest} />
    </chakra.form>
  );
}
