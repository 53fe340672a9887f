import { chakra } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { createProduct, useLookUpEntries, useSearchSupplierProducts } from "../../api/operations";
import { useCategories, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Key, Quiet, Select, Title } from "../../parts/controls";
import { Form, Text, useKeep } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { writes } from "../../parts/kinds";
import { money } from "../../parts/money";
import { Thumb } from "../../parts/picture";
import { Targets, useTargets } from "../../parts/targets";
import { Adding } from "./pictures/adding";
import { usePrepared } from "./queries";

const across = { display: "flex", gap: "4", alignItems: "flex-end", flexWrap: "wrap", pt: "2" } as const;

const nothing = {
  title: "",
  brand: "",
  number: "",
  cost: "",
  currency: "GBP",
  stock: "",
  weight: "",
  description: "",
  supplier: "",
  ref: "",
};

/** Make is a product from nothing, or from another: typed in once, listed where
 * it is wanted, and what its listings lack comes next. */
export function Make() {
  const a = useAddress();
  const go = useNavigate();
  const { data: sites } = useSites();
  const to = useTargets(sites);
  const from = Number(a.get("copy"));
  const like = usePrepared(from, from > 0);
  const [pictures, setPictures] = useState<string[]>([]);
  const [category, setCategory] = useState("");
  const own = sites?.find((s) => writes(s.kind) && to.ids.includes(s.id));
  const categories = useCategories(own?.id);
  const keep = useKeep({
    values: nothing,
    keep: ({ weight, stock, ...v }: typeof nothing) =>
      createProduct({
        body: {
          ...v,
          stock: Number(stock) || 0,
          weight: Number(weight) || undefined,
          pictures,
          sites: to.ids,
          category,
        },
      }),
    done: (made) =>
      go(made.prepared.length > 0 ? `/prepare/${made.prepared[0]}` : `/sources?tab=find&open=${made.item_id}`),
  });
  useKeys({ Escape: () => go(-1) }, true, [["Esc", "back"]]);
  useEffect(() => {
    const l = like.data;
    if (!l) return;
    const at = (field: string) => l.fields.find((f) => f.field === field)?.value ?? "";
    keep.form.reset({
      ...nothing,
      title: l.product,
      brand: at("brand"),
      description: at("description"),
      weight: at("package.weight"),
      currency: l.currency,
    });
    setPictures(l.pictures.map((p) => p.original));
    setCategory(l.category);
  }, [like.data, keep.form]);
  return (
    <>
      <Title
        title={from ? "Another product like it" : "A product from nothing"}
        more="Type in what you know, or paste a title, a number, a picture. What its listings lack comes next."
      />
      <Form
        form={keep.form}
        onSubmit={keep.submit}
        error={keep.error}
        label="A product"
        focus
        maxW="900px"
        overflowY="auto"
      >
        <chakra.div {...across}>
          <Text upright name="number" label="Number (barcode)" w="170px" hint="if it has one" />
          <Text upright name="title" label="Title" w="520px" hint="Tarnwick Fell brass kettle 1.4 l" />
          <Text upright name="brand" label="Brand" w="170px" />
        </chakra.div>
        <Known
          number={keep.form.watch("number")}
          sites={sites}
          onTake={(x) => {
            keep.form.setValue("title", x.title, { shouldDirty: true });
            keep.form.setValue("brand", x.brand, { shouldDirty: true });
          }}
        />
        <chakra.div {...across}>
          <Text upright name="cost" label="What one costs you" w="130px" figures />
          <Text upright name="currency" label="Currency" w="76px" upper />
          <Text upright name="stock" label="How many there are" w="130px" figures />
          <Text upright name="weight" label="Packed weight, g" w="120px" figures />
          <Text upright name="supplier" label="Who sells it to you" w="220px" hint="your own stock" />
        </chakra.div>
        <chakra.label display="block" pt="2">
          <Quiet display="block" fontSize="12.5px">
            Description
          </Quiet>
          <chakra.textarea
            {...keep.form.register("description")}
            rows={3}
            w="100%"
            maxW="894px"
            p="2"
            bg="panel"
            borderWidth="1px"
            borderColor="hair"
            rounded="4px"
          />
        </chakra.label>
        <chakra.div py="2">
          {pictures.length > 0 && (
            <chakra.div display="flex" gap="2" flexWrap="wrap" mb="2">
              {pictures.map((d, i) => (
                <chakra.button
                  key={d}
                  type="button"
                  aria-label={`Leave picture ${i + 1} out`}
                  title="Leave it out"
                  onClick={() => setPictures(pictures.filter((x) => x !== d))}
                >
                  <Thumb digest={d} size={72} />
                </chakra.button>
              ))}
            </chakra.div>
          )}
          <Adding others={[]} chosen={pictures} onAdd={(d) => setPictures((old) => [...new Set([...old, ...d])])} />
        </chakra.div>
        <Targets sites={sites} to={to} />
        {own && (
          <chakra.label display="flex" gap="2" alignItems="center">
            <Quiet>Category on {own.name}</Quiet>
            <Select
              w="280px"
              aria-label="Category"
              value={category}
              onChange={(e) => setCategory(e.currentTarget.value)}
            >
              <option value="">choose one later</option>
              {categories.data?.map((c) => (
                <option key={c.ref} value={c.ref}>
                  {c.name}
                </option>
              ))}
            </Select>
          </chakra.label>
        )}
        <chakra.div py="3">
          <Button look="main" type="submit" disabled={keep.busy}>
            {to.ids.length === 0
              ? "Make it"
              : `Make it and list it on ${to.ids.length} ${to.ids.length === 1 ? "site" : "sites"}`}{" "}
            <Key>Enter</Key>
          </Button>
        </chakra.div>
      </Form>
    </>
  );
}

type KnownProps = {
  number: string;
  sites: Schemas["SiteView"][] | undefined;
  onTake: (x: { title: string; brand: string }) => void;
};

/** Known tells who has a number already: suppliers, and a place's catalogue. */
function Known({ number, sites, onTake }: KnownProps) {
  const digits = number.replace(/\D/g, "");
  const on = digits.length >= 8;
  const catalogue = sites?.find((s) => s.kind === "catalogue");
  const offered = useSearchSupplierProducts({ query: { words: digits } }, { enabled: on, keep: true });
  const entries = useLookUpEntries(
    { path: { id: catalogue?.id ?? 0 }, query: { q: digits } },
    { enabled: on && !!catalogue, keep: true, retry: false },
  );
  if (!on) return null;
  const rows = offered.data?.slice(0, 3) ?? [];
  const found = entries.data?.slice(0, 2) ?? [];
  if (rows.length + found.length === 0) return null;
  return (
    <chakra.div role="status" pl="4" py="1" fontSize="13px">
      {rows.map((r) => (
        <div key={r.id}>
          {r.supplier} sells it for {money(r.cost, r.currency)} {r.currency}: {r.title}.{" "}
          <Link to={`/sources?tab=find&q=${digits}`}>
            <chakra.span textDecoration="underline">List that one</chakra.span>
          </Link>
        </div>
      ))}
      {found.map((e) => (
        <div key={e.ref}>
          <Quiet>{catalogue?.name} calls it</Quiet> {e.title}{" "}
          <Button size="small" look="plain" onClick={() => onTake({ title: e.title, brand: e.brand })}>
            Take its title and brand
          </Button>
        </div>
      ))}
    </chakra.div>
  );
}
