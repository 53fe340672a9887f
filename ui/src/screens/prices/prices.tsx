import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useListings, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Empty, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { column } from "../../parts/listings";
import { Narrow, useNarrowed } from "../../parts/narrow";
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
  const narrowed = useNarrowed();
  const { site } = narrowed;
  const list = useListings({ ...narrowed, ...a.sorting });
  const [chosen, setChosen] = useState<Set<number>>(
    () => new Set(a.get("pick").split(",").map(Number).filter(Boolean)),
  );
  return (
    <chakra.div display="flex" flex="1" minH="0" gap="4">
      <chakra.div flex="1" minW="0" display="flex" flexDirection="column">
        <Narrow words state>
          {list.rows.length > 0 && (
            <Button size="small" onClick={() => setChosen(new Set([...chosen, ...list.rows.map((l) => l.id)]))}>
              Tick the {list.rows.length} shown
            </Button>
          )}
        </Narrow>
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
            narrowed.words || narrowed.supplier || narrowed.state ? (
              <Empty title="Nothing found">Search looks at titles, SKUs, product numbers and suppliers' refs.</Empty>
            ) : (
              <Empty title="Nothing to price yet">
                A supplier product that is matched to an entry gets its price here, by the first rule that fits it.
              </Empty>
            )
          }
          columns={a.open ? opened : several && !site ? [column.title, column.site, ...closed.slice(1)] : closed}
        />
      </chakra.div>
      {a.open && <ListingPanel key={a.open} id={a.open} onClose={() => a.setOpen(null)} />}
    </chakra.div>
  );
}
