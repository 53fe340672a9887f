import { chakra } from "@chakra-ui/react";
import { useCounts, useListings, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Empty, Tabs, Title, Trouble } from "../../parts/controls";
import { column } from "../../parts/listings";
import { ListingPanel } from "../../parts/panel";
import { DataTable } from "../../parts/table";
import { Fees } from "./fees";
import { Rule } from "./rule";

/** Price is what each listing asks and why, the rule that says so, and the fees it is reckoned with. */
export function Price() {
  const a = useAddress();
  const tab = a.get("tab") || "prices";
  const { data: sites } = useSites();
  const { data: counts } = useCounts();
  const site = sites?.[0];
  return (
    <>
      <Title
        title="Price"
        more={
          site
            ? `${site.name}, ${site.currency}, tax ${site.tax_way} at ${site.tax_rate}`
            : "no marketplace is connected yet"
        }
      />
      <Tabs
        tabs={[
          { to: "?", label: "Prices", on: tab === "prices" },
          { to: "?state=unpriced", label: "Without a price", count: counts?.unpriced, on: false },
          { to: "?tab=rule", label: "Rule", on: tab === "rule" },
          { to: "?tab=fees", label: "Fees and terms", on: tab === "fees" },
        ]
          .filter((t) => t.label !== "Without a price" || (counts?.unpriced ?? 0) > 0)
          .map((t) =>
            tab === "prices" && a.get("state") === "unpriced" ? { ...t, on: t.to === "?state=unpriced" } : t,
          )}
      />
      {tab === "prices" && <Prices />}
      {tab === "rule" &&
        (site ? (
          <Rule site={site} />
        ) : (
          <Empty title="No marketplace yet">Connect one under Fees and terms; a rule comes with it.</Empty>
        ))}
      {tab === "fees" && <Fees site={site} />}
    </>
  );
}

function Prices() {
  const a = useAddress();
  const list = useListings({ state: a.get("state") || undefined, ...a.sorting });
  return (
    <chakra.div display="flex" flex="1" minH="0" gap="4">
      <chakra.div flex="1" minW="0" display="flex" flexDirection="column">
        <Trouble error={list.error} retry={list.retry} />
        <DataTable
          label="Prices"
          list={list}
          open={a.open}
          onOpen={(l) => a.setOpen(l.id)}
          sorting={a.sorting ?? { sort: "title", desc: false }}
          onSort={a.setSorting}
          empty={
            <Empty title="Nothing to price yet">
              A supplier product that is matched to an entry gets its price here, by the rule.
            </Empty>
          }
          columns={
            a.open
              ? [column.title, column.strip, column.price, column.left]
              : [
                  column.title,
                  column.sku,
                  column.cost,
                  column.strip,
                  column.price,
                  column.left,
                  column.state,
                  column.why,
                ]
          }
        />
      </chakra.div>
      {a.open && <ListingPanel key={a.open} id={a.open} onClose={() => a.setOpen(null)} />}
    </chakra.div>
  );
}
