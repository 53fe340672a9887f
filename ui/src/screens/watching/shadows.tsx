import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listDryRuns } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Code, Empty, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { money } from "../../parts/money";
import { ListingPanel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { time } from "../../parts/when";

type Row = Schemas["ShadowRow"];

/** Shadows are what rules in their first week would have sent by themselves. */
export function Shadows({ site }: { site?: number }) {
  const a = useAddress();
  const { data: clock } = useClock();
  const list = useParts(listDryRuns, { query: { site } });
  const opened = list.rows.find((r) => r.id === a.open);
  return (
    <>
      <Trouble error={list.error} />
      <chakra.div display="flex" flex="1" minH="0" gap="4" pt="2">
        <Grid
          label="What would have been sent"
          list={list}
          open={a.open}
          onOpen={(r) => a.setOpen(r.id)}
          empty={
            <Empty title="No rule is in its first week">
              A rule that is set to go on its own only says what it would send for a week; each change stands here then,
              and waits in the plan as any other.
            </Empty>
          }
          columns={columns(clock?.now).filter((c) => !opened || ["at", "title", "change"].includes(c.key))}
        />
        {opened && <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

const columns = (now?: string): Column<Row>[] => [
  { key: "at", head: "When", width: "100px", cell: (r) => time(r.at, now) },
  {
    key: "title",
    head: "Product",
    width: "minmax(200px, 1fr)",
    cell: (r) => <Pictured digest={r.picture}>{r.title}</Pictured>,
  },
  { key: "sku", head: "SKU", width: "96px", cell: (r) => <Code>{r.sku}</Code> },
  { key: "site", head: "Site", width: "126px", cell: (r) => r.site },
  {
    key: "change",
    head: "Would have been",
    width: "190px",
    right: true,
    cell: (r) => (
      <chakra.span fontFamily="mono" whiteSpace="nowrap">
        {r.to_price !== null
          ? `${money(r.from_price ?? 0, r.currency)} → ${money(r.to_price, r.currency)} ${r.currency}`
          : `${r.from_quantity} → ${r.to_quantity} offered`}
      </chakra.span>
    ),
  },
  { key: "rule", head: "By the rule", width: "minmax(120px, 0.6fr)", cell: (r) => r.rule },
  {
    key: "why",
    head: "Why",
    width: "minmax(200px, 1fr)",
    cell: (r) => <span title={r.reasons.join(" · ")}>{r.reasons.join(" · ")}</span>,
  },
];
