import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Schemas } from "./client";
import { showsAnyOf } from "./topics";

export type Run = Schemas["Run"];
type Event = { run?: Run; topics?: string[] };
/** News is an event of the server's, or that nobody listened for a while. */
type News = Event | "missed";

export const isOver = (r: Run) =>
  r.state === "done" || r.state === "failed" || r.state === "stopped" || r.state === "set aside";

const name = "easymargin-events";

/** listen hears what the server tells. One stream serves all tabs of a browser:
 * the tab that has the lock holds it and passes on what it hears. A hidden tab
 * holds none, and asks for everything anew when it is seen again. */
export function listen(hear: (news: News) => void): () => void {
  const channel = new BroadcastChannel(name);
  channel.onmessage = (m) => hear(m.data as News);
  let leave: AbortController | undefined;
  const stream = (end: AbortController) =>
    new Promise<void>((done) => {
      const source = new EventSource("/api/v1/events");
      const tell = (news: News) => {
        hear(news);
        channel.postMessage(news);
      };
      source.onopen = () => tell("missed"); // after a break everything may have moved
      source.onmessage = (m) => tell(JSON.parse(m.data) as Event);
      end.signal.addEventListener("abort", () => {
        source.close();
        done();
      });
    });
  // Over plain HTTP from another machine there are no locks: then each tab has its own stream.
  const lead = (end: AbortController) =>
    !navigator.locks
      ? stream(end)
      : navigator.locks.request(name, { signal: end.signal }, () => stream(end)).catch(() => {}); // hidden again while it waited
  const look = () => {
    if (document.hidden) {
      leave?.abort();
      leave = undefined;
    } else if (!leave) {
      leave = new AbortController();
      lead(leave);
      hear("missed");
    }
  };
  document.addEventListener("visibilitychange", look);
  look();
  return () => {
    document.removeEventListener("visibilitychange", look);
    leave?.abort();
    channel.close();
  };
}

/** useEvents keeps what the screens show fresh: runs are put in place as they
 * move, and lists of a changed topic are read again. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    let stale = new Set<string>();
    let timer: number | undefined;
    const refresh = (...topics: string[]) => {
      for (const t of topics) stale.add(t);
      timer ??= window.setTimeout(() => {
        timer = undefined;
        const now = stale;
        stale = new Set();
        client.invalidateQueries({ predicate: showsAnyOf(now) });
      }, 150);
    };
    const end = listen((news) => {
      if (news === "missed") {
        client.invalidateQueries();
        return;
      }
      if (news.topics) refresh(...news.topics, "today");
      const run = news.run;
      if (!run) return;
      const known = client.getQueryData<Run[]>(["runs"])?.find((r) => r.id === run.id);
      client.setQueryData<Run[]>(["runs"], (old) => old?.map((r) => (r.id === run.id ? run : r)));
      // Where it stands among the others is the server's to say.
      if (known?.state !== run.state) refresh("runs");
      if (isOver(run)) refresh("today", "counts");
    });
    return () => {
      end();
      window.clearTimeout(timer);
    };
  }, [client]);
}
