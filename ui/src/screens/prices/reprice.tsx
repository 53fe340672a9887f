import { chakra } from "@chakra-ui/react";
import { useForm } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { checkRepricing, useRepriceListings } from "../../api/operations";
import { useDo } from "../../api/queries";
import { Button, Input, Quiet } from "../../parts/controls";
import { Form, Wrong } from "../../parts/form";
import { Moves } from "./moves";

type Ask = Schemas["Repricing"];

/** Reprice changes the prices of the chosen listings by a figure or a rate. What
 * would become of them is seen before it is kept. */
export function Reprice({ listings, onClose }: { listings: number[]; onClose: () => void }) {
  const form = useForm({ defaultValues: { by: "" } });
  const ask = useDo((body: Ask) => checkRepricing({ body }));
  const keep = useRepriceListings((body: Ask) => ({ body }));
  const asked = ask.variables;
  const see = (body: Ask) => {
    keep.reset();
    ask.mutate(body);
  };
  const moves = ask.data;
  return (
    <Form
      form={form}
      label="Change prices by hand"
      error={keep.error ?? ask.error}
      onSubmit={form.handleSubmit(({ by }) => see({ listings, by }))}
      py="2"
      borderBottomWidth="1px"
      borderColor="hair"
    >
      <chakra.div display="flex" gap="3" alignItems="center">
        <chakra.span whiteSpace="nowrap">
          <b>{listings.length === 1 ? "1 price" : `${listings.length} prices`}</b> change by
        </chakra.span>
        <Input figures w="100px" aria-label="By how much" placeholder="−5%" {...form.register("by")} />
        <Quiet minW="0" truncate title="A rate, or an amount in each one's currency">
          a rate, or an amount in each one's currency
        </Quiet>
        <Button type="submit" size="small" h="30px">
          See what becomes of them
        </Button>
        <Button size="small" h="30px" onClick={() => see({ listings, release: true })}>
          Release to their rules
        </Button>
        <chakra.div flex="1" />
        <Button look="plain" size="small" onClick={onClose}>
          None of them
        </Button>
      </chakra.div>
      <Wrong of={["by", "to"]} />
      {moves && asked && !keep.isSuccess && (
        <chakra.div maxH="260px" overflowY="auto" pt="2">
          <Moves moves={moves} currency={moves[0]?.currency ?? "GBP"} />
          <chakra.div display="flex" gap="3" alignItems="center" pt="2">
            <Button
              look="main"
              disabled={keep.isPending || moves.some((m) => m.refused)}
              onClick={() => keep.mutate(asked)}
            >
              {asked.release ? "Release them" : "Fix these prices"}
            </Button>
            <Quiet>
              {asked.release
                ? "They follow their rules again; what is live gets a plan."
                : "They stay until you release them; what is live gets a plan."}
            </Quiet>
          </chakra.div>
        </chakra.div>
      )}
      {keep.isSuccess && <Quiet>Kept. What is live gets a plan under Watch.</Quiet>}
    </Form>
  );
}
