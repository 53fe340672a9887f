import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSetVisibility } from "../../api/operations";
import { Button, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { same } from "../../parts/same";

type How = Schemas["ShownHow"];
type Props = { ids: number[]; how: How; onDone?: () => void };

/** Shown is when listings are offered: always, within some days, or not at all
 * just now. What is on sale is put to nothing by the plan. */
export function Shown({ ids, how, onDone }: Props) {
  const [h, setH] = useState<How>(how);
  const [days, setDays] = useState(!!(how.from || how.until));
  const kind = h.hidden ? "hidden" : days ? "days" : "";
  const put = useSetVisibility((shown: How) => ({ body: { ids, shown } }));
  const choose = (k: string) => {
    setDays(k === "days");
    setH(k === "hidden" ? { hidden: true } : k === "days" ? { from: h.from, until: h.until } : {});
  };
  const changed = !same(h, {
    ...how,
    hidden: how.hidden || undefined,
    from: how.from || undefined,
    until: how.until || undefined,
  });
  return (
    <section aria-label="Shown">
      <chakra.h2 fontWeight="700" mt="4">
        Shown
      </chakra.h2>
      <Select aria-label="How it is shown" value={kind} onChange={(e) => choose(e.currentTarget.value)}>
        <option value="">always</option>
        <option value="days">within some days</option>
        <option value="hidden">not just now</option>
      </Select>
      {kind === "days" && (
        <chakra.div display="flex" gap="1" alignItems="center" mt="1">
          <Input
            type="date"
            h="28px"
            w="130px"
            aria-label="From"
            value={h.from ?? ""}
            onChange={(e) => setH({ ...h, from: e.target.value || undefined })}
          />
          to
          <Input
            type="date"
            h="28px"
            w="130px"
            aria-label="Until"
            value={h.until ?? ""}
            onChange={(e) => setH({ ...h, until: e.target.value || undefined })}
          />
        </chakra.div>
      )}
      <Trouble error={put.error} />
      {(changed || ids.length > 1) && (
        <chakra.div mt="1" display="flex" gap="2" alignItems="center">
          <Button
            size="small"
            look="main"
            disabled={put.isPending}
            onClick={() => put.mutate(h, { onSuccess: onDone })}
          >
            Keep it{ids.length > 1 && ` for ${ids.length}`}
          </Button>
          <Quiet fontSize="12.5px">Outside of it, nothing is offered.</Quiet>
        </chakra.div>
      )}
    </section>
  );
}
