import { chakra } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listListableProducts, useCreateOwnListings } from "../../api/operations";
import { useCategories } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Pictured } from "../../parts/picture";
import { toggled } from "../../parts/toggled";

type Site = Schemas["SiteView"];

/** Add lists products of ours on a site that wants listings of one's own. */
export function Add({ sites, site: chosenSite }: { sites: Site[]; site: number }) {
  const a = useAddress();
  const go = useNavigate();
  const site = chosenSite || sites[0]?.id || 0;
  const words = a.get("words");
  const [chosen, setChosen] = useState(new Set<number>());
  const [category, setCategory] = useState("");
  const { data: categories } = useCategories(site);
  const found = useParts(listListableProducts, { path: { id: site }, query: { words: words || undefined } });
  const rows = useMemo(() => found.rows.map((r) => ({ ...r, id: r.product_id })), [found.rows]);
  const list = { ...found, rows };
  const add = useCreateOwnListings((products: number[]) => ({
    path: { id: site },
    body: { products, category: category || undefined },
  }));
  const act = () => {
    if (chosen.size === 0 || add.isPending) return;
    add.mutate([...chosen], { onSuccess: () => go(`?site=${site}`) });
  };
  useKeys({ ".": act, a: () => setChosen(new Set(list.rows.map((r) => r.id))) }, true, [
    [".", "list those chosen"],
    ["a", "choose all that are shown"],
  ]);
  const name = sites.find((s) => s.id === site)?.name ?? "";
  const nameOf = (ref: string) => categories?.find((c) => c.ref === ref)?.name ?? ref;
  return (
    <>
      <chakra.div display="flex" gap="2" alignItems="center" py="2">
        <Input
          w="240px"
          h="32px"
          type="search"
          aria-label="Words in it"
          placeholder="Words in it"
          defaultValue={words}
          onChange={(e) => a.put({ words: e.target.value })}
        />
        <Button onClick={() => setChosen(new Set(list.rows.map((r) => r.id)))}>
          Choose all shown <Key>a</Key>
        </Button>
        <chakra.div flex="1" />
        <Select
          w="230px"
          h="32px"
          aria-label="Category"
          value={category}
          onChange={(e) => setCategory(e.currentTarget.value)}
        >
          <option value="">Category as elsewhere</option>
          {categories?.map((c) => (
            <option key={c.ref} value={c.ref}>
              {c.name}
            </option>
          ))}
        </Select>
        <Button look="main" disabled={chosen.size === 0 || add.isPending} onClick={act}>
          {chosen.size === 0 ? "Choose what to list" : `List ${chosen.size} on ${name}`} <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={list.error ?? add.error} retry={list.retry} />
      <Grid
        label="Products without a listing here"
        list={list}
        selected={chosen}
        onSelect={(r) => setChosen((old) => toggled(old, r.id))}
        onOpen={(r) => setChosen((old) => toggled(old, r.id))}
        empty={<Empty title="All you sell is listed here">A new product stands here once it is matched or made.</Empty>}
        columns={[
          {
            key: "title",
            head: "Product",
            width: "minmax(240px, 1fr)",
            cell: (r) => <Pictured digest={r.picture}>{r.title}</Pictured>,
          },
          { key: "sku", head: "SKU", width: "110px", cell: (r) => <Code>{r.sku}</Code> },
          { key: "brand", head: "Brand", width: "140px", cell: (r) => r.brand || <Quiet>none</Quiet> },
          {
            key: "category",
            head: "Would go into",
            width: "200px",
            cell: (r) => (r.category ? nameOf(r.category) : <Quiet>choose one</Quiet>),
          },
          {
            key: "stock",
            head: "Stock there",
            width: "100px",
            right: true,
            cell: (r) => <Code color="ink">{r.stock}</Code>,
          },
        ]}
      />
    </>
  );
}
