import { useFormContext } from "react-hook-form";
import type { Schemas } from "../../api/client";

export type Ask = Schemas["BenchAsk"];
export type Answer = Schemas["BenchAnswer"];
export type Lead = NonNullable<Ask["lead"]>;

const cost = { unit: "", charge: "", free_from: "", duty: "", fx: "", cushion: "", handling: "", currency: "" };
const blank = { charged: "", outbound: "", category: "", day: "", former: "", value: "" };

/** begin is a first question: a product's by its rule, or loose figures with a price to start from. */
export const begin = (product: number, item = 0): Ask =>
  product || item
    ? {
        ...blank,
        site_id: 0,
        product_id: product || undefined,
        supplier_product_id: product ? undefined : item,
        cost,
        lead: "rule",
      }
    : { ...blank, site_id: 0, cost: { ...cost, unit: "10.00" }, lead: "margin", value: "18%" };

/** kept is a question that stood in the address, to be gone on with. */
export function kept(text: string): Ask | null {
  try {
    const x = JSON.parse(text) as Ask | null;
    return x && typeof x === "object" ? { ...blank, ...x, cost: { ...cost, ...x.cost } } : null;
  } catch {
    return null;
  }
}

/** asked is a question without what was left empty. */
export function asked<T extends object>(x: T): T {
  const out = Object.entries(x).flatMap(([k, v]) => {
    if (v === "" || v === undefined || v === null) return [];
    if (typeof v !== "object") return [[k, v]];
    const inner = asked(v as object);
    return Object.keys(inner).length ? [[k, inner]] : [];
  });
  return Object.fromEntries(out) as T;
}

/** useLead lets a figure lead: whatever was written last, the others follow. */
export function useLead() {
  const { setValue } = useFormContext<Ask>();
  return (lead: Lead, value: string) => {
    setValue("lead", lead);
    setValue("value", value);
  };
}
