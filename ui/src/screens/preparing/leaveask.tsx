import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { useSetApproval } from "../../api/operations";
import { Button, Trouble, Word } from "../../parts/controls";

/** LeaveAsk says of a category that is sold in by leave alone what is noted of
 * that; what is in it waits until leave is given. */
export function LeaveAsk({ site, category }: { site: number; category: Schemas["CategoryChoice"] }) {
  const note = useSetApproval((state: "asked" | "given") => ({
    path: { id: site },
    body: { category: category.ref, state },
  }));
  if (category.leave === "") return null;
  return (
    <chakra.span display="flex" gap="1" alignItems="center" flexWrap="wrap" fontSize="12.5px">
      <Word tone={category.leave === "given" ? "good" : "bad"}>
        {category.leave === "given" ? "leave given" : category.leave === "asked" ? "leave asked for" : "needs leave"}
      </Word>
      {category.leave === "needed" && (
        <Button size="small" disabled={note.isPending} onClick={() => note.mutate("asked")}>
          Note that I asked
        </Button>
      )}
      {category.leave !== "given" && (
        <Button size="small" disabled={note.isPending} onClick={() => note.mutate("given")}>
          It is given
        </Button>
      )}
      <Trouble error={note.error} />
    </chakra.span>
  );
}
