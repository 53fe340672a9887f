import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useListings, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Empty, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { column } from "../../parts/listings";
import { ListingPanel } from "../../parts/panel";
import { toggled } from "../../parts/toggled";
import { Reprice } from "./reprice";

const closed = [
  column.title,
  column.sku,
  column.landed,
  column.strip,
  column.price,
  column.left,
  column.state,
  column.why,
];
const opened = [column.title, column.strip, column.price, column.left];

/** Prices are all listings with what they ask, and a way to change a set of them by hand. */
export function Prices() {
  const a = useAddress();
  const { data: sites } = useSites();
  const several = (sites?.filter((s) => s.lists).length ?? 0) > 1;
  const site = Number(a.get("site")) || undefined;
  const list = useListings({ state: a.get("state") || undefined, site, ...a.sorting });
  const [chosen, setChosen] = useState<Set<number>>(
    () => new Set(a.get("pick").split(",").map(Number).filter(Boolean)),
  );
  return (
    <chakra.div display="flex" flex="1" minH="0" gap="4">
      <chakra.div flex="1" minW="0" display="flex" flexDirection="column">
        <Trouble error={list.error} retry={list.retry} />
        {chosen.size > 0 && (
          <Reprice
            listings={[...chosen]}
            onClose={() => {
              setChosen(new Set());
              a.put({ pick: null });
            }}
          />
        )}
        <Grid
          label="Prices"
          list={list}
          open={a.open}
          onOpen={(l) => a.setOpen(l.id)}
          selected={chosen}
          onSelect={(l) => setChosen((old) => toggled(old, l.id))}
          sorting={a.sorting ?? { sort: "title", desc: false }}
          onSort={a.setSorting}
          empty={
            <Empty title="Nothing to price yet">
              A supplier product that is matched to an entry gets its price here, by the first rule that fits it.
            </Empty>
          }
          columns={a.open ? opened : several && !site ? [column.title, column.site, ...closed.slice(1)] : closed}
        />
      </chakra.div>
      {a.open && <ListingPanel key={a.open} id={a.open} onClose={() => a.setOpen(null)} />}
    </chakra.div>
  );
}
