import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useParts } from "../../api/operation";
import { listUnlinkedOffers, useReadBackListings } from "../../api/operations";
import { useClock, useSites } from "../../api/queries";
import { Button, Code, Empty, Quiet, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { Money } from "../../parts/money";
import { Panel } from "../../parts/panel";
import { time } from "../../parts/when";
import { Tie } from "./tie";

/** Untied are offers that are on sale in our name and tied to nothing here: nobody
 * watches their price and stock. They are seen when a site's offers are read back. */
export function Untied() {
  const [open, setOpen] = useState<number | null>(null);
  const { data: sites } = useSites();
  const { data: clock } = useClock();
  const list = useParts(listUnlinkedOffers, {});
  const back = useReadBackListings((id: number) => ({ path: { id } }));
  const opened = list.rows.find((x) => x.id === open);
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        <Quiet flex="1">
          Tie each to the supplier it comes from, or let it be: it is shown, and nobody follows its price and stock.
        </Quiet>
        {sites
          ?.filter((s) => s.lists && s.address)
          .map((s) => (
            <Button key={s.id} size="small" disabled={back.isPending} onClick={() => back.mutate(s.id)}>
              Read {s.name} back now
            </Button>
          ))}
      </chakra.div>
      <Trouble error={list.error ?? back.error} retry={list.retry} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="Untied offers"
          list={list}
          open={open}
          onOpen={(x) => setOpen(x.id)}
          empty={
            <Empty title="Nothing is untied">
              All that is on sale in your name is a listing here. It is read back from the marketplaces every six hours.
            </Empty>
          }
          columns={[
            { key: "sku", head: "SKU there", width: "160px", cell: (x) => <Code color="ink">{x.sku}</Code> },
            { key: "site", head: "On sale on", width: "170px", cell: (x) => x.site },
            {
              key: "title",
              head: "What it says it is",
              width: "minmax(160px, 2fr)",
              cell: (x) => x.title || <Quiet>nothing</Quiet>,
            },
            { key: "entry", head: "Entry", width: "110px", cell: (x) => <Code>{x.entry}</Code> },
            {
              key: "price",
              head: "Price",
              width: "120px",
              right: true,
              cell: (x) => <Money minor={x.price} currency={x.currency} unit fontWeight="600" />,
            },
            {
              key: "quantity",
              head: "Offered",
              width: "90px",
              right: true,
              cell: (x) => <Code color="ink">{x.quantity}</Code>,
            },
            { key: "seen", head: "Seen", width: "120px", right: true, cell: (x) => time(x.seen, clock?.now) },
          ]}
        />
        {opened && (
          <Panel label="Tie an offer" onClose={() => setOpen(null)}>
            <Tie key={opened.id} offer={opened} onDone={() => setOpen(null)} />
          </Panel>
        )}
      </chakra.div>
    </>
  );
}
