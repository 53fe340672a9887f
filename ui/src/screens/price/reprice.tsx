import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useDo } from "../../api/queries";
import { Button, Input, Quiet, Trouble } from "../../parts/controls";
import { Fault, faults } from "../../parts/field";
import { Moves } from "./moves";

/** Reprice changes the prices of the chosen listings by a figure or a rate. What
 * would become of them is seen before it is kept. */
export function Reprice({ listings, onClose }: { listings: number[]; onClose: () => void }) {
  const [by, setBy] = useState("");
  const ask = useDo((body: Schemas["Repricing"]) => read(api.POST("/api/listings/reprice", { body })));
  const keep = useDo(
    (body: Schemas["Repricing"]) => read(api.POST("/api/listings/reprice", { body: { ...body, keep: true } })),
    "listings",
    "plan",
    "rules",
  );
  const [asked, setAsked] = useState<Schemas["Repricing"] | null>(null);
  const see = (body: Schemas["Repricing"]) => {
    setAsked(body);
    keep.reset();
    ask.mutate(body);
  };
  const wrong = faults(keep.error ?? ask.error);
  const moves = ask.data;
  return (
    <chakra.form
      aria-label="Change prices by hand"
      py="2"
      borderBottomWidth="1px"
      borderColor="hair"
      onSubmit={(e) => {
        e.preventDefault();
        see({ listings, by });
      }}
    >
      <chakra.div display="flex" gap="3" alignItems="center">
        <chakra.span whiteSpace="nowrap">
          <b>{listings.length === 1 ? "1 price" : `${listings.length} prices`}</b> change by
        </chakra.span>
        <Input
          figures
          w="100px"
          aria-label="By how much"
          placeholder="−5%"
          value={by}
          onChange={(e) => setBy(e.target.value)}
        />
        <Quiet minW="0" truncate title="A rate, or an amount in each one's currency">
          a rate, or an amount in each one's currency
        </Quiet>
        <Button type="submit" size="small" h="30px">
          See what becomes of them
        </Button>
        <Button type="button" size="small" h="30px" onClick={() => see({ listings, release: true })}>
          Release to their rules
        </Button>
        <chakra.div flex="1" />
        <Button type="button" look="plain" size="small" onClick={onClose}>
          None of them
        </Button>
      </chakra.div>
      <Fault>{wrong.of("by", "to")}</Fault>
      <Trouble error={wrong.rest} />
      {moves && asked && !keep.isSuccess && (
        <chakra.div maxH="260px" overflowY="auto" pt="2">
          <Moves moves={moves} currency={moves[0]?.currency ?? "GBP"} />
          <chakra.div display="flex" gap="3" alignItems="center" pt="2">
            <Button
              type="button"
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
    </chakra.form>
  );
}
