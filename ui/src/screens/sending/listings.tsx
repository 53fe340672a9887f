import { chakra } from "@chakra-ui/react";
import type { Listing, useListings } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Empty, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { column } from "../../parts/listings";
import { ListingPanel } from "../../parts/panel";

const opened = [column.title, column.price, column.quantity];
const ready = [
  column.title,
  column.sku,
  column.landed,
  column.strip,
  column.price,
  column.left,
  column.stock,
  column.quantity,
];
const refusals: Column<Listing>[] = [
  column.title,
  column.sku,
  column.price,
  column.quantity,
  { ...column.why, head: "What the marketplace says", width: "minmax(240px, 1.4fr)" },
];

type ListingsProps = {
  refused: boolean;
  list: ReturnType<typeof useListings>;
  chosen: Set<number>;
  onChoose: (l: Listing) => void;
};

/** Listings are those that may be sent: the ready ones, or the refused ones with why. */
export function Listings({ refused, list, chosen, onChoose }: ListingsProps) {
  const a = useAddress();
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label={refused ? "Refused listings" : "Ready listings"}
          list={list}
          selected={chosen}
          onSelect={onChoose}
          open={a.open}
          onOpen={(l) => a.setOpen(l.id)}
          sorting={a.sorting ?? { sort: "title", desc: false }}
          onSort={a.setSorting}
          empty={
            refused ? (
              <Empty title="Nothing was refused">
                A listing that a marketplace refuses stands here with its words.
              </Empty>
            ) : (
              <Empty title="Nothing is ready">
                A matched product with a price and stock to offer stands here until it is sent.
              </Empty>
            )
          }
          columns={a.open ? opened : refused ? refusals : ready}
        />
        {a.open && <ListingPanel key={a.open} id={a.open} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}
