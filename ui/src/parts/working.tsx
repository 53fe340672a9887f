import { useEffect, useState } from "react";
import { Quiet } from "./controls";

/** Working says that an answer is on its way, once that takes long enough to wonder about. */
export function Working({ on }: { on: boolean }) {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!on) return;
    const timer = setTimeout(() => setLate(true), 400);
    return () => {
      clearTimeout(timer);
      setLate(false);
    };
  }, [on]);
  return on && late ? <Quiet role="status">working it out…</Quiet> : null;
}
