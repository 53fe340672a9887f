import { useCallback } from "react";
import { useSearchParams } from "react-router";
import type { Sorting } from "./grid";

/** useAddress keeps what a list shows in the address: filter, order, what is open. */
export function useAddress() {
  const [params, setParams] = useSearchParams();
  const put = useCallback(
    (change: Record<string, string | null>) =>
      setParams(
        (old) => {
          const next = new URLSearchParams(old);
          for (const [k, v] of Object.entries(change)) {
            if (v === null || v === "") next.delete(k);
            else next.set(k, v);
          }
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  const get = (name: string) => params.get(name) ?? "";
  const open = params.get("open") ? Number(params.get("open")) : null;
  const sorting: Sorting | undefined = params.get("sort")
    ? { sort: get("sort"), desc: params.get("desc") === "1" }
    : undefined;
  return {
    get,
    put,
    open,
    setOpen: (id: number | null) => put({ open: id === null ? null : String(id) }),
    sorting,
    setSorting: (s: Sorting) => put({ sort: s.sort, desc: s.desc ? "1" : null }),
  };
}
