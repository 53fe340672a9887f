import type { Schemas } from "../../api/client";
import { useGetCandidate, useQuotePrice } from "../../api/operations";

export type Candidate = Schemas["Candidate"];
export type Column = Schemas["ColumnView"];
export type NamedSieve = Schemas["SieveView"];

/** weighTopics are the lists that change with what is done with candidates. */
export const weighTopics = ["weigh", "finds", "matches", "products", "listings"];

export const useOpened = (id: number) => useGetCandidate({ path: { id } });

/** useAtPrice is what is left of a price of a candidate, with its lines; of the rule's where there is none. */
export const useAtPrice = (site: number, c: Candidate | undefined, value: string | undefined) =>
  useQuotePrice(
    {
      body: {
        site_id: site,
        supplier_product_id: c?.supplier_product_id,
        category: c?.category,
        cost: { units_bought: c?.units_bought, units_listed: c?.units_listed },
        ...(value === undefined ? {} : { lead: "price" as const, value }),
      },
    },
    { enabled: c !== undefined, keep: true },
  );
