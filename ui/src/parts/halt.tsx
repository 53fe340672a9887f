import { chakra } from "@chakra-ui/react";
import { useEffect } from "react";
import type { Schemas } from "../api/client";
import { useSetHalt } from "../api/operations";
import { useClock } from "../api/queries";
import { Button, Key, Trouble } from "./controls";
import { useKeys } from "./keys";
import { time } from "./when";

/** Halted says on every screen, and in the title, that everything is stopped. */
export function Halted({ halt }: { halt: Schemas["Halt"] }) {
  const { data: clock } = useClock();
  const lift = useSetHalt(() => ({ body: { on: false } }));
  useEffect(() => {
    const was = document.title;
    document.title = `Stopped – ${was}`;
    return () => {
      document.title = was;
    };
  }, []);
  return (
    <>
      <chakra.div
        role="alert"
        bg="warn"
        borderBottomWidth="2px"
        borderColor="loss"
        px="5"
        py="1.5"
        display="flex"
        gap="3"
        alignItems="center"
      >
        <chakra.b fontWeight="700">Everything is stopped.</chakra.b>
        <chakra.span flex="1" truncate>
          Nothing is sent to any marketplace since {time(halt.at, clock?.now)}, by {halt.by}
          {halt.why ? `: ${halt.why}` : "."}
        </chakra.span>
        <Button size="small" disabled={lift.isPending} onClick={() => lift.mutate(undefined)}>
          Lift the stop
        </Button>
      </chakra.div>
      <Trouble error={lift.error} />
    </>
  );
}

/** PullStop holds everything at once: what waits is sent only after it is lifted. */
export function PullStop() {
  const pull = useSetHalt(() => ({ body: { on: true } }));
  const act = () => !pull.isPending && pull.mutate(undefined);
  useKeys({ "!": act }, true, [["!", "stop everything: nothing is sent until you lift it"]]);
  return (
    <>
      <Button onClick={act} title="Nothing is sent to any marketplace until you lift it">
        Stop everything <Key>!</Key>
      </Button>
      <Trouble error={pull.error} />
    </>
  );
}
