import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listRivalMoves, listSupplierMoves } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Code, Empty, Quiet, Select, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { Money, money } from "../../parts/money";
import { ListingPanel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { time } from "../../parts/when";

type Supply = Schemas["SupplyMove"];
type Rival = Schemas["RivalMove"];

const fields = { cost: "costs", stock: "stock", listed: "gone and back" };

/** SupplyMoves is what suppliers changed of what is listed, newest first. */
export function SupplyMoves() {
  const a = useAddress();
  const { data: clock } = useClock();
  const field = (a.get("field") in fields ? a.get("field") : undefined) as keyof typeof fields | undefined;
  const list = useParts(listSupplierMoves, { query: { field } });
  return (
    <>
      <chakra.div display="flex" gap="2" alignItems="center" py="2">
        <Select aria-label="What changed" value={field ?? ""} onChange={(e) => a.put({ field: e.target.value })}>
          <option value="">everything</option>
          {Object.entries(fields).map(([k, words]) => (
            <option key={k} value={k}>
              {words}
            </option>
          ))}
        </Select>
      </chakra.div>
      <Trouble error={list.error} />
      <Grid
        label="What suppliers changed"
        list={list}
        empty={<Empty title="Nothing changed yet">Costs and stock that feeds change stand here.</Empty>}
        columns={supplyColumns(clock?.now)}
      />
    </>
  );
}

const supplyColumns = (now?: string): Column<Supply>[] => [
  { key: "at", head: "When", width: "100px", cell: (m) => time(m.at, now) },
  {
    key: "title",
    head: "Product",
    width: "minmax(220px, 1.4fr)",
    cell: (m) => <Pictured digest={m.picture}>{m.title}</Pictured>,
  },
  { key: "ref", head: "Ref", width: "120px", cell: (m) => <Code>{m.ref}</Code> },
  { key: "source", head: "From", width: "minmax(140px, 0.6fr)", cell: (m) => m.source },
  {
    key: "field",
    head: "What",
    width: "70px",
    cell: (m) => (m.field === "listed" ? "in feed" : m.field),
  },
  {
    key: "change",
    head: "Before → after",
    width: "190px",
    right: true,
    cell: (m) => (
      <chakra.span fontFamily="mono" whiteSpace="nowrap">
        {m.before || "–"} → <chakra.b fontWeight="700">{m.after || "–"}</chakra.b> {m.field === "cost" && m.currency}
      </chakra.span>
    ),
  },
  {
    key: "share",
    head: "By",
    width: "74px",
    right: true,
    cell: (m) => <Share of={m} />,
  },
  { key: "listings", head: "Listings", width: "66px", right: true, cell: (m) => <Code color="ink">{m.listings}</Code> },
  {
    key: "feed",
    head: "Feed",
    width: "60px",
    cell: (m) => (
      <Link to={`/sources/feeds/${m.feed_id}`}>
        <chakra.span textDecoration="underline">see</chakra.span>
      </Link>
    ),
  },
];

/** Share is by how many per cent a cost moved. */
function Share({ of: m }: { of: Supply }) {
  const was = Number(m.before);
  if (m.field !== "cost" || !was) return <Quiet>–</Quiet>;
  const by = Math.round(((Number(m.after) - was) / was) * 100);
  return (
    <chakra.span fontFamily="mono" color={by > 0 ? "loss" : "gain"}>
      {by > 0 ? "+" : by < 0 ? "−" : ""}
      {Math.abs(by)} %
    </chakra.span>
  );
}

/** RivalMoves is how what others ask moved where we list, newest first. */
export function RivalMoves({ site }: { site?: number }) {
  const a = useAddress();
  const { data: clock } = useClock();
  const list = useParts(listRivalMoves, { query: { site } });
  const opened = list.rows.find((m) => m.id === a.open);
  return (
    <>
      <Trouble error={list.error} />
      <chakra.div display="flex" flex="1" minH="0" gap="4" pt="2">
        <Grid
          label="How rivals moved"
          list={list}
          open={a.open}
          onOpen={(m) => a.setOpen(m.id)}
          empty={
            <Empty title="No rival has moved yet">
              What others ask is read every hour where a price rule looks at it.
            </Empty>
          }
          columns={rivalColumns(clock?.now).filter((c) => !opened || ["at", "title", "lowest"].includes(c.key))}
        />
        {opened && <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

/** Moved is an amount before and after; only after where it was the same, or the first. */
function Moved({ from, to, currency }: { from: number | null; to: number | null; currency: string }) {
  const show = (v: number | null) => (v === null ? "nobody" : money(v, currency));
  if (from === to || from === null) return <Code>{show(to)}</Code>;
  return (
    <chakra.span fontFamily="mono" whiteSpace="nowrap" color={to !== null && to < from ? "loss" : undefined}>
      {show(from)} → <chakra.b fontWeight="700">{show(to)}</chakra.b>
    </chakra.span>
  );
}

const rivalColumns = (now?: string): Column<Rival>[] => [
  { key: "at", head: "When", width: "100px", cell: (m) => time(m.at, now) },
  {
    key: "title",
    head: "Product",
    width: "minmax(200px, 1fr)",
    cell: (m) => <Pictured digest={m.picture}>{m.title}</Pictured>,
  },
  { key: "site", head: "Site", width: "126px", cell: (m) => m.site },
  {
    key: "lowest",
    head: "Lowest",
    width: "150px",
    right: true,
    cell: (m) => <Moved from={m.lowest_before} to={m.lowest} currency={m.currency} />,
  },
  {
    key: "leading",
    head: "Leading",
    width: "150px",
    right: true,
    cell: (m) => <Moved from={m.leading_before} to={m.leading} currency={m.currency} />,
  },
  {
    key: "sellers",
    head: "Sellers",
    width: "76px",
    right: true,
    cell: (m) => (
      <Code color="ink">
        {m.sellers_before !== null && m.sellers_before !== m.sellers ? `${m.sellers_before} → ` : ""}
        {m.sellers}
      </Code>
    ),
  },
  {
    key: "asked",
    head: "We ask in all",
    width: "106px",
    right: true,
    cell: (m) => <Money minor={m.asked} currency={m.currency} unit />,
  },
  {
    key: "under",
    head: "Under us by",
    width: "92px",
    right: true,
    cell: (m) =>
      m.asked !== null && m.lowest !== null && m.lowest < m.asked ? (
        <Money minor={m.asked - m.lowest} currency={m.currency} color="loss" />
      ) : (
        <Quiet>–</Quiet>
      ),
  },
];
