import type { Schemas } from "../../api/client";
import { percent } from "./ruleform";

export type FeeRow = Schemas["FeeRow"];
export type Written = Schemas["Schedule"];
export type Fee = Written["fees"][number];
export type Warehouse = NonNullable<Written["warehouse"]>;

/** Draft is what a new version of a schedule begins from. */
export type Draft = Pick<FeeRow, "name" | "exact">;

/** bases are what a fee may be taken of. */
export const bases: Record<string, string> = {
  item: "of the item price",
  total: "of item and delivery",
  "total+tax": "of all the buyer pays, tax too",
};

const may = (v?: string) => v?.trim() || undefined;
const rate = (v?: string) => (may(v) ? percent(v ?? "") : undefined);

/** clean drops what is empty, and adds the signs that are easily left out. */
export function clean(s: Written): Written {
  return {
    ...s,
    warehouse: s.warehouse && cleanWarehouse(s.warehouse),
    fees: s.fees.map((f) => ({
      name: f.name.trim(),
      of: f.of,
      rate: f.bands?.length ? undefined : rate(f.rate),
      banding: f.bands?.length ? f.banding : undefined,
      bands: f.bands?.length
        ? f.bands.map((b, i, all) => ({
            to: i < all.length - 1 ? may(b.to) : undefined,
            rate: percent(b.rate),
            fixed: f.banding === "whole" ? may(b.fixed) : undefined,
          }))
        : undefined,
      fixed: may(f.fixed),
      least: may(f.least),
      most: may(f.most),
      tax: rate(f.tax),
    })),
  };
}

const measures = ["longest", "median", "shortest", "girth", "weight"] as const;

function cleanWarehouse(w: Warehouse): Warehouse {
  return {
    ...w,
    name: w.name.trim(),
    divisor: w.divisor || undefined,
    tax: rate(w.tax),
    steps: w.steps.map((s) => ({
      ...Object.fromEntries(measures.map((m) => [m, s[m] || undefined])),
      name: s.name.trim(),
      fee: s.fee.trim(),
      over: s.over || undefined,
      half_kilo: may(s.half_kilo),
    })),
  };
}
