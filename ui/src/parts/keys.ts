import { useEffect, useRef, useSyncExternalStore } from "react";

export type Keys = Record<string, (e: KeyboardEvent) => void>;

/** Said is a key with what it does, in words. */
export type Said = [key: string, does: string];

/** writing tells whether the person is typing into a field. */
export function writing(e: Event): boolean {
  const t = e.target as HTMLElement | null;
  return !!t && (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName));
}

// What the keys of the parts on screen do, in the order the parts came.
let here: { said: Said[] }[] = [];
const listeners = new Set<() => void>();
const put = (next: typeof here) => {
  here = next;
  for (const l of listeners) l();
};

/** useKeysHere are the keys that do something on the screen that is open. */
export function useKeysHere(): Said[] {
  const parts = useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => here,
  );
  const all = new Map(parts.flatMap((p) => p.said));
  return [...all];
}

/** useKeys does what keys say while a part of a screen is open, and says so in
 * the help. A jump (J and a letter) is the frame's: the key after it is not passed on. */
export function useKeys(keys: Keys, on = true, said: Said[] = []) {
  const kept = useRef(keys);
  kept.current = keys;
  useEffect(() => {
    if (!on) return;
    const press = (e: KeyboardEvent) => {
      if (e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey) return;
      if (writing(e) && e.key !== "Escape") return;
      const does = kept.current[e.key];
      if (!does) return;
      e.preventDefault();
      does(e);
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [on]);
  const words = JSON.stringify(said);
  useEffect(() => {
    const mine = { said: JSON.parse(words) as Said[] };
    if (!on || mine.said.length === 0) return;
    put([...here, mine]);
    return () => put(here.filter((p) => p !== mine));
  }, [on, words]);
}
