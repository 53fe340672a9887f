import { useEffect, useRef } from "react";

export type Keys = Record<string, (e: KeyboardEvent) => void>;

/** writing tells whether the person is typing into a field. */
export function writing(e: Event): boolean {
  const t = e.target as HTMLElement | null;
  return !!t && (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName));
}

/** useKeys does what keys say while a screen is open. A jump (J and a letter)
 * is the frame's: the key after it is not passed on. */
export function useKeys(keys: Keys, on = true) {
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
}
