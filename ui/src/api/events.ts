import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Schemas } from "./client";

export type Run = Schemas["Run"];
type Event = { run?: Run; topics?: string[] };

export const isOver = (r: Run) => r.state === "done" || r.state === "failed" || r.state === "stopped";

/** useEvents keeps what the screens show fresh: runs are put in place as they
 * move, and lists of a changed topic are read again. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/events");
    let stale = new Set<string>();
    let timer: number | undefined;
    const refresh = (...topics: string[]) => {
      for (const t of topics) stale.add(t);
      timer ??= window.setTimeout(() => {
        timer = undefined;
        const now = stale;
        stale = new Set();
        client.invalidateQueries({ predicate: (q) => now.has(String(q.queryKey[0])) });
      }, 150);
    };
    source.onmessage = (m) => {
      const e = JSON.parse(m.data) as Event;
      if (e.topics) refresh(...e.topics, "today");
      const run = e.run;
      if (!run) return;
      client.setQueryData<Run[]>(["runs"], (old) => {
        const rest = (old ?? []).filter((r) => r.id !== run.id);
        return isOver(run) ? [...rest.filter((r) => !isOver(r)), run, ...rest.filter(isOver)] : [...rest, run];
      });
      // A list that was asked for before may still come in and say otherwise: read it again.
      if (isOver(run)) refresh("today", "counts", "runs");
    };
    // After a break everything may have moved.
    source.onopen = () => client.invalidateQueries();
    return () => {
      source.close();
      window.clearTimeout(timer);
    };
  }, [client]);
}
