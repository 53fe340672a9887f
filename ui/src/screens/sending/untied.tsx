import { chakra } from "@chakra-ui/react";
import { api, read, type Schemas } from "../../api/client";
import { useClock, useDo, useParts, useSites } from "../../api/queries";
import { Button, Code, Empty, Quiet, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { Money } from "../../parts/money";
import { time } from "../../parts/when";

/** Untied are offers that are on sale in our name and tied to nothing here: nobody
 * watches their price and stock. They are seen when a site's offers are read back. */
export function Untied() {
  const { data: sites } = useSites();
  const { data: clock } = useClock();
  const list = useParts<Schemas["UntiedRow"]>(["listings", "untied"], (p) =>
    read(api.GET("/api/untied", { params: { query: p } })),
  );
  const back = useDo(
    (id: number) => read(api.POST("/api/sites/{id}/read-back", { params: { path: { id } } })),
    "runs",
    "listings",
  );
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        <Quiet flex="1">
          Take each off sale at the marketplace, or let it be; what one of our listings comes to stand for leaves this
          list by itself.
        </Quiet>
        {sites
          ?.filter((s) => s.lists)
          .map((s) => (
            <Button key={s.id} size="small" disabled={back.isPending} onClick={() => back.mutate(s.id)}>
              Read {s.name} back now
            </Button>
          ))}
      </chakra.div>
      <Trouble error={list.error ?? back.error} retry={list.retry} />
      <Grid
        label="Untied offers"
        list={list}
        empty={
          <Empty title="Nothing is untied">
            All that is on sale in your name is a listing here. It is read back from the marketplaces every six hours.
          </Empty>
        }
        columns={[
          { key: "sku", head: "SKU there", width: "160px", cell: (x) => <Code color="ink">{x.sku}</Code> },
          { key: "site", head: "On sale on", width: "170px", cell: (x) => x.site },
          { key: "entry", head: "Entry", width: "minmax(120px, 1fr)", cell: (x) => <Code>{x.entry}</Code> },
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
    </>
  );
}
