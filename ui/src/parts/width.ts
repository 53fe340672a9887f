import { useCallback, useRef, useState } from "react";

/** useWidth measures a drawing's room, in pixels, so that its text keeps its size. */
export function useWidth<T extends HTMLElement>(begin: number) {
  const [width, setWidth] = useState(begin);
  const box = useRef<T>(null);
  const ref = useCallback((el: T | null) => {
    box.current = el;
    if (!el || typeof ResizeObserver === "undefined") return;
    const watch = new ResizeObserver(([e]) => setWidth(Math.max(200, Math.round(e.contentRect.width))));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  return { ref, box, width };
}
