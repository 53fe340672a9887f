import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../../api/client";
import { useDeleteLearntCategory } from "../../../api/operations";
import { Button, Quiet, Trouble } from "../../../parts/controls";

type Props = { site: number; learnt: Schemas["LearntCategory"][] };

/** Learnt is which of the place's categories a supplier's is: it comes of where
 * people put things, and can be forgotten. */
export function Learnt({ site, learnt }: Props) {
  const forget = useDeleteLearntCategory((ours: string) => ({ path: { id: site }, query: { ours } }));
  if (learnt.length === 0) return null;
  return (
    <section aria-label="Suppliers' categories">
      <chakra.h2 fontWeight="700" mt="4" mb="1">
        Suppliers' categories
      </chakra.h2>
      <Trouble error={forget.error} />
      {learnt.map((l) => (
        <chakra.div key={l.ours} display="flex" gap="1" alignItems="center" fontSize="12.5px">
          <chakra.span flex="1">
            {l.ours} <Quiet>goes to</Quiet> {l.path}
          </chakra.span>
          <Button size="small" look="plain" aria-label={`Forget ${l.ours}`} onClick={() => forget.mutate(l.ours)}>
            ×
          </Button>
        </chakra.div>
      ))}
    </section>
  );
}
