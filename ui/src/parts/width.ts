import { useCallback, useRef, useState } from "react";

/** useHeight measures the room that a part has, in pixels. */
export function useHeight<T extends HTMLElement>(begin: number) {
  const [height, setHeight] = useState(begin);
  const ref = useCallback((el: T | null) => {
    if (!el || typeof ResizeObserver === "undefined") return;
    const watch = new ResizeObserver(([e]) => setHeight(Math.max(120, Math.round(e.contentRect.height))));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  return { ref, height };
}

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
