import { type FocusEvent, type KeyboardEvent, useRef } from "react";

/** focusLacking goes to the next field that lacks something: the first on the
 * page, or the first after one. */
export function focusLacking(after?: Element | null) {
  const all = [...document.querySelectorAll<HTMLElement>("[data-lacks]")];
  const next = after ? all.find((x) => after.compareDocumentPosition(x) & Node.DOCUMENT_POSITION_FOLLOWING) : undefined;
  (next ?? all[0])?.focus();
}

type Typed = {
  keep: () => Promise<unknown>;
  drop: () => void;
  after: (here: Element) => void; // after Enter
  lines?: boolean; // Shift and Enter begin a new line
};

/** useTyped has what is typed into a field kept where it is left or Enter is
 * pressed, and dropped by Esc. */
export function useTyped() {
  const dropped = useRef(false);
  return ({ keep, drop, after, lines }: Typed) => ({
    onBlur: (_: FocusEvent) => {
      if (!dropped.current) keep();
      dropped.current = false;
    },
    onKeyDown: (e: KeyboardEvent<HTMLElement>) => {
      const here = e.currentTarget;
      if (e.key === "Enter" && !(lines && e.shiftKey)) {
        e.preventDefault();
        keep().then(() => after(here));
      }
      if (e.key === "Escape") {
        e.preventDefault(); // the screen stays
        dropped.current = true;
        drop();
        here.blur();
      }
    },
  });
}
