import { useSyncExternalStore } from "react";

const kept = "easymargin-here";

/** long is how long nobody has to be here for it to count as having been away, in ms. */
const long = 60 * 60 * 1000;

let since: string | undefined;
const listeners = new Set<() => void>();

function set(to: string | undefined) {
  since = to;
  for (const tell of listeners) tell();
}

/** here notes that somebody is here now, by the application's clock. Where they
 * weren't for an hour or more, they were away since then. */
export function here(now: string) {
  const last = localStorage.getItem(kept);
  if (last && Date.parse(now) - Date.parse(last) >= long) set(last);
  localStorage.setItem(kept, now);
}

/** seen ends the time away: what happened in it was looked at. */
export const seen = () => set(undefined);

/** useAway is since when whoever is here was away; undefined where they weren't. */
export const useAway = () =>
  useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => since,
  );
