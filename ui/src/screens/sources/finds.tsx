import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import {
  shortlistSupplierProduct,
  useListSupplierProductsForSale,
  useRemoveFromShortlist,
  useSearchSupplierProducts,
} from "../../api/operations";
import { useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { Form, useKeep } from "../../parts/form";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Pictured } from "../../parts/picture";
import { Targets, useTargets } from "../../parts/targets";
import { toggled } from "../../parts/toggled";
import { ItemPanel } from "./item";

type Find = Schemas["Find"];

/** Finds searches all suppliers' products: is it ours already, what does it cost
 * where, and what would one make. What is worth it is kept, or taken to a site. */
export function Finds() {
  const a = useAddress();
  const words = a.get("q");
  const box = useRef<HTMLInputElement>(null);
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const { data: sites } = useSites();
  const to = useTargets(sites);
  const found = useSearchSupplierProducts({ query: { words } }, { keep: true });
  const rows = found.data ?? [];
  useEffect(() => box.current?.focus(), []);
  const take = useListSupplierProductsForSale((ids: number[]) => ({ body: { ids, sites: to.ids } }));
  const ids = chosen.size > 0 ? [...chosen] : a.open ? [a.open] : [];
  const send = () => {
    if (to.ids.length && ids.length && !take.isPending) take.mutate(ids, { onSuccess: () => setChosen(new Set()) });
  };
  useKeys({ ".": send }, true, [[".", "list what is chosen, or open, on the sites"]]);
  const opened = rows.find((r) => r.id === a.open);
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        <Input
          ref={box}
          type="search"
          aria-label="Search all suppliers' products"
          placeholder="Words, a supplier's ref, or a product number"
          flex="1"
          defaultValue={words}
          onChange={(e) => a.put({ q: e.target.value || null, open: null })}
          onKeyDown={(e) => (e.key === "Escape" || e.key === "Enter") && e.currentTarget.blur()}
        />
        <Button look="main" disabled={ids.length === 0 || to.ids.length === 0 || take.isPending} onClick={send}>
          {ids.length === 0
            ? "Choose what to list"
            : `List ${ids.length} on ${to.ids.length} ${to.ids.length === 1 ? "site" : "sites"}`}{" "}
          <Key>.</Key>
        </Button>
      </chakra.div>
      <Targets sites={sites} to={to} />
      {take.isSuccess && ids.length === 0 && (
        <chakra.div role="status">
          On its way: what a catalogue has is listed or waits on Match, what is ours to write waits on Prepare.
        </chakra.div>
      )}
      <Trouble error={found.error ?? take.error} retry={() => found.refetch()} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label={words ? "Found" : "Kept"}
          list={{ rows, total: rows.length, loading: found.isLoading }}
          selected={chosen}
          onSelect={(r) => setChosen(toggled(chosen, r.id))}
          open={a.open}
          onOpen={(r) => a.setOpen(r.id)}
          empty={
            words ? (
              <Empty title="Nothing found">
                No supplier's product has these words, this ref or this number. What was just brought in is findable in
                a moment.
              </Empty>
            ) : (
              <Empty title="Nothing kept yet">
                Search above. A find can be kept with a note, without listing it; kept ones stand here.
              </Empty>
            )
          }
          columns={opened ? columns.filter((c) => ["title", "supplier", "cost", "make"].includes(c.key)) : columns}
        />
        {opened && (
          <ItemPanel key={opened.id} id={opened.id} onClose={() => a.setOpen(null)}>
            <Keep find={opened} />
          </ItemPanel>
        )}
      </chakra.div>
    </>
  );
}

/** Keep holds on to a find with a note, or lets it go. */
function Keep({ find: f }: { find: Find }) {
  const keep = useKeep<{ note: string }, unknown>({
    values: { note: f.note },
    keep: (body) => shortlistSupplierProduct({ path: { id: f.id }, body }),
  });
  const forget = useRemoveFromShortlist(() => ({ path: { id: f.id } }));
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error ?? forget.error} mb="3">
      <chakra.div display="flex" gap="2">
        <Input
          flex="1"
          h="28px"
          aria-label="Note"
          placeholder="A note, such as: ask for a better price"
          {...keep.form.register("note")}
        />
        <Button size="small" type="submit" disabled={keep.busy}>
          {f.kept ? "Keep the note" : "Keep"}
        </Button>
        {f.kept && (
          <Button size="small" onClick={() => forget.mutate(undefined)}>
            Let go
          </Button>
        )}
      </chakra.div>
    </Form>
  );
}

const columns: Column<Find>[] = [
  {
    key: "title",
    head: "Product",
    width: "minmax(150px, 1.5fr)",
    cell: (r) => (
      <span title={r.note || undefined}>
        <Pictured digest={r.picture}>
          {r.title} {r.units > 1 && <Word>pack of {r.units}</Word>} {r.kept && <Word>kept</Word>}
        </Pictured>
      </span>
    ),
  },
  { key: "gtin", head: "Number", width: "112px", cell: (r) => <Code>{r.gtin}</Code> },
  { key: "supplier", head: "Supplier", width: "minmax(80px, 0.7fr)", cell: (r) => r.supplier },
  { key: "ref", head: "Ref", width: "84px", cell: (r) => <Code>{r.ref}</Code> },
  {
    key: "cost",
    head: "Cost",
    width: "96px",
    right: true,
    cell: (r) => <Money minor={r.cost} currency={r.currency} unit />,
  },
  {
    key: "stock",
    head: "Stock",
    width: "52px",
    right: true,
    cell: (r) =>
      r.gone ? (
        <Quiet>gone</Quiet>
      ) : r.stock_state === "known" ? (
        <Code color={r.stock === 0 ? "loss" : "ink"}>{r.stock}</Code>
      ) : (
        <Quiet>{r.stock_state || "–"}</Quiet>
      ),
  },
  {
    key: "ours",
    head: "Ours",
    width: "minmax(90px, 0.8fr)",
    cell: (r) =>
      r.sites ? <Word tone="good">{r.sites}</Word> : r.product_id ? <Word>a product</Word> : <Quiet>no</Quiet>,
  },
  {
    key: "make",
    head: "One would make",
    width: "118px",
    right: true,
    cell: (r) =>
      r.profit != null ? (
        <Money minor={r.profit} currency={r.profit_currency} sign unit />
      ) : r.would_make != null ? (
        <chakra.span title={`At ${r.site}'s rule and its fees for every category`}>
          <Quiet>about </Quiet>
          <Money minor={r.would_make} currency={r.site_currency} sign unit />
        </chakra.span>
      ) : (
        <Quiet title={r.why}>–</Quiet>
      ),
  },
];
