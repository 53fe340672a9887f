import { useEffect, useRef, useState } from "react";

/** useWidth measures a drawing's room, in pixels, so that its text keeps its size. */
export function useWidth<T extends HTMLElement>(begin: number) {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState(begin);
  useEffect(() => {
    const el = ref.current;
    if (!el || typeof ResizeObserver === "undefined") return;
    const watch = new ResizeObserver(([e]) => setWidth(Math.max(200, Math.round(e.contentRect.width))));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  return { ref, width };
}
