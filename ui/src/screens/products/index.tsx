import { chakra } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { useCounts, useListings, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Code, Empty, Title, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { column } from "../../parts/listings";
import { Narrow, useNarrowed } from "../../parts/narrow";
import { ListingPanel } from "../../parts/panel";
import { Tabs } from "../../parts/tabs";

const states = ["ready", "sent", "live", "refused", "paused", "unpriced", "unknown"] as const;

export { DocketPage } from "./docket";

/** Products is everything we sell, found by words, SKU, number or the supplier's ref. */
export function Products() {
  const a = useAddress();
  const go = useNavigate();
  const state = a.get("state");
  const words = a.get("q");
  const { data: counts } = useCounts();
  const { data: sites } = useSites();
  const several = (sites?.filter((s) => s.lists).length ?? 0) > 1;
  const narrowed = useNarrowed();
  const list = useListings({ ...narrowed, ...a.sorting });
  const further = narrowed.site || narrowed.supplier;
  const address = (s: string) =>
    `?${new URLSearchParams({
      ...(s && { state: s }),
      ...(words && { q: words }),
      ...(narrowed.site && { site: String(narrowed.site) }),
      ...(narrowed.supplier && { supplier: String(narrowed.supplier) }),
    })}`;
  return (
    <>
      <Title
        title="Products"
        more={
          words
            ? `${list.uncounted ? "more than " : ""}${list.total} found for “${words}”`
            : counts && `${counts.products} products from ${counts.supplier_products} supplier products`
        }
      />
      <Tabs
        label="Products"
        tabs={[
          { to: address(""), label: "All", on: state === "" },
          ...states
            .filter((s) => s !== "unknown" || s === state || (counts?.unknown ?? 0) > 0)
            .map((s) => ({
              to: address(s),
              label: s[0].toUpperCase() + s.slice(1),
              count: words || further ? undefined : counts?.[s], // those of all products are not those of a search
              on: state === s,
            })),
        ]}
      >
        <Narrow site />
        <Trouble error={list.error} retry={list.retry} />
        <chakra.div display="flex" flex="1" minH="0" gap="4">
          <Grid
            label="Products"
            list={list}
            open={a.open}
            onOpen={(l) => (words ? go(`/products/${l.product_id}?listing=${l.id}`) : a.setOpen(l.id))}
            sorting={a.sorting ?? { sort: "title", desc: false }}
            onSort={a.setSorting}
            empty={
              words || further ? (
                <Empty title="Nothing found">Search looks at titles, SKUs, product numbers and suppliers' refs.</Empty>
              ) : (
                <Empty title="Nothing here yet">
                  A supplier product that is matched to a marketplace's entry becomes a product.
                </Empty>
              )
            }
            columns={
              a.open
                ? [column.title, ...(several ? [column.site] : []), column.price, column.state]
                : [
                    column.title,
                    ...(several ? [column.site] : [column.sku]),
                    { key: "gtin", head: "Number", width: "118px", cell: (l) => <Code>{l.gtin}</Code> },
                    { key: "ref", head: "Supplier's ref", width: "100px", cell: (l) => <Code>{l.ref}</Code> },
                    column.strip,
                    column.price,
                    column.left,
                    column.stock,
                    column.quantity,
                    column.state,
                  ]
            }
          />
          {a.open && <ListingPanel key={a.open} id={a.open} onClose={() => a.setOpen(null)} />}
        </chakra.div>
      </Tabs>
    </>
  );
}
