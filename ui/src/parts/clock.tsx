import { chakra } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useAdvanceDemo } from "../api/operations";
import { useClock } from "../api/queries";
import { Button } from "./controls";
import { at } from "./when";

/** Clock shows the time the application goes by; in the demo it can be moved on. */
export function Clock() {
  const { data } = useClock();
  const client = useQueryClient();
  const forward = useAdvanceDemo((minutes: number) => ({ body: { minutes } }));
  if (!data) return null;
  return (
    <chakra.span display="flex" alignItems="center" gap="1.5" whiteSpace="nowrap">
      <chakra.span fontFamily="mono" fontSize="12.5px" data-testid="clock">
        {at(data.now, { weekday: "short", hour: "2-digit", minute: "2-digit" }).replace(",", "")}
      </chakra.span>
      {data.demo && (
        <Button
          size="small"
          title="Move the demo's clock on by a quarter of an hour"
          onClick={() => forward.mutate(15, { onSuccess: (d) => client.setQueryData(["clock"], d) })}
        >
          +15 min
        </Button>
      )}
    </chakra.span>
  );
}
