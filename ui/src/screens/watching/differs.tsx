import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listDifferences, readBackListings, useDecideDifferences } from "../../api/operations";
import { useClock, useCounts, useDo, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money, money } from "../../parts/money";
import { ListingPanel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { toggled } from "../../parts/toggled";
import { time } from "../../parts/when";

type Row = Schemas["DifferenceRow"];

/** Differs are listings that were read back and aren't as they were confirmed:
 * each is kept as it is there, or ours is sent again. */
export function Differs() {
  const a = useAddress();
  const { data: c } = useCounts();
  const { data: clock } = useClock();
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const list = useParts(listDifferences, {});
  const decide = useDecideDifferences((theirs: boolean) => ({ body: { ids: [...chosen], theirs } }));
  const { data: sites } = useSites();
  const again = useDo(async () => {
    for (const s of sites?.filter((s) => s.lists && s.address) ?? []) await readBackListings({ path: { id: s.id } });
  });
  const act = (theirs: boolean) =>
    chosen.size > 0 && !decide.isPending && decide.mutate(theirs, { onSuccess: () => setChosen(new Set()) });
  useKeys({ ".": () => act(false) }, chosen.size > 0, [[".", "ours holds for what is chosen"]]);
  const opened = list.rows.find((r) => r.id === a.open);
  return (
    <>
      <chakra.div display="flex" gap="2" alignItems="center" py="2">
        <Button disabled={chosen.size === 0 || decide.isPending} look="main" onClick={() => act(false)}>
          Ours holds for {chosen.size} <Key>.</Key>
        </Button>
        <Button disabled={chosen.size === 0 || decide.isPending} onClick={() => act(true)}>
          Keep theirs
        </Button>
        <Button disabled={again.isPending} onClick={() => again.mutate(undefined)}>
          Read back now
        </Button>
        <Quiet flex="1">
          Read back several times a day. A price kept as it is there is fixed by hand; what was ended there and is kept
          so isn't sold there any more.
        </Quiet>
        {!!c?.untied && (
          <Link to="/send?tab=untied">
            <chakra.span textDecoration="underline">{c.untied} more there are tied to nothing here</chakra.span>
          </Link>
        )}
      </chakra.div>
      <Trouble error={decide.error ?? again.error ?? list.error} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="What differs there"
          list={list}
          selected={chosen}
          onSelect={(r) => setChosen(toggled(chosen, r.id))}
          open={a.open}
          onOpen={(r) => a.setOpen(r.id)}
          empty={
            <Empty title="Nothing differs">
              What is on sale is what was confirmed. What somebody changes or ends at a marketplace stands here once it
              has been read back.
            </Empty>
          }
          columns={columns(clock?.now).filter((x) => !opened || ["title", "theirs", "ours"].includes(x.key))}
        />
        {opened && <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

const kinds = { changed: "changed there", ended: "ended there", "never live": "taken, never seen there" };

const pair = (price: number | null, quantity: number, currency: string) =>
  `${price === null ? "–" : `${money(price, currency)} ${currency}`} × ${quantity}`;

const columns = (now?: string): Column<Row>[] => [
  {
    key: "title",
    head: "Product",
    width: "minmax(180px, 1fr)",
    cell: (r) => <Pictured digest={r.picture}>{r.title}</Pictured>,
  },
  { key: "sku", head: "SKU", width: "96px", cell: (r) => <Code>{r.sku}</Code> },
  { key: "site", head: "Site", width: "130px", cell: (r) => r.site },
  {
    key: "kind",
    head: "What",
    width: "126px",
    cell: (r) => <Word tone="bad">{kinds[r.kind]}</Word>,
  },
  {
    key: "ours",
    head: "As confirmed",
    width: "140px",
    right: true,
    cell: (r) => <Code>{pair(r.our_price, r.our_quantity, r.currency)}</Code>,
  },
  {
    key: "theirs",
    head: "There now",
    width: "140px",
    right: true,
    cell: (r) => (
      <Code color="ink">{r.kind !== "changed" ? "nothing" : pair(r.their_price, r.their_quantity, r.currency)}</Code>
    ),
  },
  {
    key: "floor",
    head: "Floor",
    width: "80px",
    right: true,
    cell: (r) => <Money minor={r.floor} currency={r.currency} />,
  },
  { key: "seen", head: "Seen", width: "92px", cell: (r) => time(r.seen, now) },
];
