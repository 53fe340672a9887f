import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { isOver, type Run } from "../api/events";
import { useRetryRun, useStopRun } from "../api/operations";
import { useRuns } from "../api/queries";
import { Button, Trouble, Word } from "./controls";
import { useKeys } from "./keys";
import { time } from "./when";

/** Progress is how far a run is, as a bar and in figures; brief where room is short. */
export function Progress({ run, brief }: { run: Run; brief?: boolean }) {
  const share = run.total > 0 ? Math.min(100, Math.round((100 * run.done) / run.total)) : 0;
  return (
    <chakra.span display="inline-flex" alignItems="center" gap="2" whiteSpace="nowrap">
      <chakra.span
        role="progressbar"
        aria-label={run.title}
        aria-valuenow={run.done}
        aria-valuemax={run.total || undefined}
        display="inline-block"
        w="90px"
        h="6px"
        rounded="3px"
        bg="band"
        borderWidth="1px"
        borderColor="hair"
        overflow="hidden"
      >
        <chakra.span display="block" h="100%" bg="action" style={{ width: `${share}%` }} />
      </chakra.span>
      <chakra.span fontFamily="mono" fontSize="12px" color="quiet">
        {brief && run.total > 0 ? `${share} %` : run.done}
        {!brief && run.total > 0 ? ` / ${run.total}` : ""}
      </chakra.span>
      {!brief && <Left run={run} />}
    </chakra.span>
  );
}

/** Left is how long is left of a run, once that can be told. */
function Left({ run }: { run: Run }) {
  const [began] = useState(() => ({ at: Date.now(), done: run.done }));
  const done = run.done - began.done;
  const ms = Date.now() - began.at;
  if (run.state !== "running" || done < 1 || ms < 1500 || run.total <= run.done) return null;
  const seconds = Math.ceil(((run.total - run.done) * ms) / done / 1000);
  return (
    <chakra.span fontSize="12px" color="quiet">
      {seconds < 90 ? `${seconds} s left` : `${Math.ceil(seconds / 60)} min left`}
    </chakra.span>
  );
}

/** Runs shows what goes on in the background; opened, also what was done last. */
export function Runs() {
  const { data } = useRuns();
  const [params, setParams] = useSearchParams();
  const open = params.get("runs") === "open";
  const setOpen = (on: boolean) =>
    setParams(
      (p) => {
        if (on) p.set("runs", "open");
        else p.delete("runs");
        return p;
      },
      { replace: true },
    );
  const stop = useStopRun((id: number) => ({ path: { id } }));
  const again = useRetryRun((id: number) => ({ path: { id } }));
  useKeys({ Escape: () => setOpen(false) }, open, [["Esc", "close the runs"]]);
  const runs = data ?? [];
  const aside = runs.filter((r) => r.state === "set aside");
  const live = runs.filter((r) => !isOver(r));
  const past = runs.filter((r) => isOver(r) && r.state !== "set aside");
  const failed = past[0]?.state === "failed";
  return (
    <chakra.div position="relative">
      <Button look="plain" size="small" aria-expanded={open} onClick={() => setOpen(!open)}>
        {live.length ? (
          <>
            <chakra.span maxW="120px" truncate>
              {live[0].title}
            </chakra.span>
            <Progress key={live[0].id} run={live[0]} brief />
          </>
        ) : (
          <chakra.span color={aside.length || failed ? "loss" : "quiet"}>
            {aside.length ? "A run is set aside" : failed ? "A run failed" : "Runs"}
          </chakra.span>
        )}
      </Button>
      {open && (
        <chakra.div
          position="absolute"
          right="0"
          top="34px"
          w="460px"
          maxH="480px"
          overflowY="auto"
          bg="panel"
          borderWidth="1px"
          borderColor="hair"
          rounded="6px"
          shadow="lifted"
          zIndex="20"
          p="3"
        >
          {runs.length === 0 && <chakra.div color="quiet">Nothing has run yet.</chakra.div>}
          <Trouble error={again.error} />
          {[...aside, ...live, ...past.slice(0, 14)].map((r) => (
            <chakra.div key={r.id} py="1.5" borderBottomWidth="1px" borderColor="hair">
              <chakra.div display="flex" gap="2" alignItems="center">
                <chakra.span flex="1" fontWeight="600" truncate>
                  {r.title}
                </chakra.span>
                {isOver(r) ? (
                  <>
                    <Word tone={r.state === "failed" || r.state === "set aside" ? "bad" : undefined}>{r.state}</Word>
                    <chakra.span color="quiet" fontSize="12px">
                      {time(r.ended)}
                    </chakra.span>
                    {r.state === "set aside" && (
                      <Button size="small" disabled={again.isPending} onClick={() => again.mutate(r.id)}>
                        Try it again
                      </Button>
                    )}
                  </>
                ) : (
                  <>
                    <Progress run={r} />
                    <Button size="small" onClick={() => stop.mutate(r.id)}>
                      Stop
                    </Button>
                  </>
                )}
              </chakra.div>
              <chakra.div color={r.error ? "loss" : "quiet"}>{r.error || r.note}</chakra.div>
            </chakra.div>
          ))}
        </chakra.div>
      )}
    </chakra.div>
  );
}
