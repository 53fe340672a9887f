import { chakra } from "@chakra-ui/react";
import { useForm } from "react-hook-form";
import { Link } from "react-router";
import { ifMatch, type Schemas } from "../api/client";
import { setFormerPrice, useRepriceListings, useSetListingWarehouse } from "../api/operations";
import type { Listing } from "../api/queries";
import { Button, Code, Input, Quiet, Trouble } from "./controls";
import { Fault } from "./fault";
import { Form, useKeep, Wrong } from "./form";
import { money, plain } from "./money";

type ByHandProps = { listing: Listing; x: Schemas["Explained"] };

/** ByHand is what a person can settle for one listing alone: its price, its
 * rule, its former price and who sends it. */
export function ByHand({ listing: l, x }: ByHandProps) {
  const store = useSetListingWarehouse((warehouse: boolean) => ({
    path: { id: l.id },
    header: ifMatch(l.version),
    body: { warehouse },
  }));
  return (
    <>
      <Fixed listing={l} x={x} />
      <Former key={`${x.crossed}`} listing={l} x={x} />
      {(x.can_store || x.warehouse) && (
        <chakra.label display="flex" gap="2" alignItems="center" minH="24px" py="1">
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

/** Fixed fixes the price, or releases one that was fixed. */
function Fixed({ listing: l, x }: ByHandProps) {
  const form = useForm({ defaultValues: { to: "" } });
  const fix = useRepriceListings((body: Schemas["Repricing"]) => ({ body }));
  if (x.fixed)
    return (
      <chakra.div display="flex" gap="3" alignItems="center" py="1">
        <chakra.span flex="1">The price was fixed by hand and stays.</chakra.span>
        <Button size="small" disabled={fix.isPending} onClick={() => fix.mutate({ listings: [l.id], release: true })}>
          Release it
        </Button>
      </chakra.div>
    );
  return (
    <Form
      form={form}
      error={fix.error}
      label="Fix the price"
      py="1"
      onSubmit={form.handleSubmit(({ to }) => fix.mutate({ listings: [l.id], to }, { onSuccess: () => form.reset() }))}
    >
      <chakra.div display="flex" gap="2" alignItems="center">
        <chakra.label flex="1" display="flex" gap="2" alignItems="center">
          Fix the price at
          <Input
            figures
            h="28px"
            w="90px"
            placeholder={l.price == null ? "" : money(l.price, l.currency)}
            {...form.register("to")}
          />
          {l.currency}
        </chakra.label>
        <Button type="submit" size="small" disabled={fix.isPending || !form.watch("to").trim()}>
          Fix it
        </Button>
      </chakra.div>
      <Wrong of={["to", "by"]} />
    </Form>
  );
}

/** Former sets a former price to show crossed out; what speaks against it is said. */
function Former({ listing: l, x }: ByHandProps) {
  const keep = useKeep({
    values: { former: x.crossed == null ? "" : plain(x.crossed, l.currency) },
    version: l.version,
    keep: (body: { former: string }, version) => setFormerPrice({ path: { id: l.id }, header: ifMatch(version), body }),
  });
  const touched = keep.form.formState.isDirty;
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="Former price" py="1">
      <chakra.div display="flex" gap="2" alignItems="center">
        <chakra.label flex="1" display="flex" gap="2" alignItems="center">
          Former price, crossed out
          <Input figures h="28px" w="90px" placeholder="none" {...keep.form.register("former")} />
          {!touched && x.former && x.former.percent > 0 && <Code color="ink">−{x.former.percent} %</Code>}
        </chakra.label>
        <Button type="submit" size="small" disabled={keep.busy || !touched}>
          Keep
        </Button>
      </chakra.div>
      <Wrong of={["former"]} />
      <Fault>{!touched && x.former?.warning ? `Mind: ${x.former.warning}.` : undefined}</Fault>
      {keep.clash}
    </Form>
  );
}
