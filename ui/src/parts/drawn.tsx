import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../api/client";
import { useClock } from "../api/queries";
import { Steps } from "./charts";
import { Quiet } from "./controls";
import { time } from "./when";

type DrawnProps = {
  item: Pick<Schemas["SupplierItem"], "history" | "first">;
  field: string;
  label: string;
  now: string;
};

/** Drawn is how one figure moved, as steps, oldest left. */
export function Drawn({ item: x, field, label, now }: DrawnProps) {
  const { data: clock } = useClock();
  const points = x.history.filter((h) => h.field === field);
  const words = [points[0]?.before, ...points.map((p) => p.after)].map((w) => w || "none").join(", ");
  return (
    <chakra.section aria-label={`History of ${label}`} mb="2">
      <chakra.div display="flex" justifyContent="space-between">
        <Quiet>{label}</Quiet>
        <chakra.span fontFamily="mono" fontWeight="600">
          {now || "not said"}
        </chakra.span>
      </chakra.div>
      {points.length > 0 ? (
        <Steps
          label={`${label}: ${words}`}
          points={[
            { at: x.first ?? points[0].at, value: points[0].was },
            ...points.map((p) => ({ at: p.at, value: p.is })),
          ]}
          until={clock?.now ?? points[points.length - 1].at}
          width={372}
          height={36}
          from={field === "stock" ? 0 : undefined}
        />
      ) : (
        <Quiet fontSize="12px">has not moved{x.first ? ` since ${time(x.first)}` : ""}</Quiet>
      )}
    </chakra.section>
  );
}
