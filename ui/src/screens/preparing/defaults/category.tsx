import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { checkDefaults, useUpdateDefaults } from "../../../api/operations";
import { useAnswer } from "../../../api/queries";
import { Button, Input, Key, Quiet, Select, Trouble } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { same } from "../../../parts/same";
import { useDemands } from "../queries";
import { nameOf } from "../words";
import { Template } from "./template";
import { Texts, written } from "./texts";
import { Touched } from "./touched";

type Props = { site: number; of: Schemas["CategoryDefaults"]; terms: string[] };
type Pair = { key: string; value: string };

const pairs = (m: Record<string, string> | undefined): Pair[] =>
  Object.entries(m ?? {}).map(([key, value]) => ({ key, value }));
const record = (list: Pair[]) => Object.fromEntries(list.filter((p) => p.key && p.value).map((p) => [p.key, p.value]));

/** OfCategory is what holds in one category. */
export function OfCategory({ site, of, terms }: Props) {
  const [blocks, setBlocks] = useState(of.defaults.blocks ?? []);
  const [texts, setTexts] = useState(of.defaults.texts ?? []);
  const [named, setNamed] = useState(of.defaults.terms ?? "");
  const [values, setValues] = useState(pairs(of.defaults.values));
  const [names, setNames] = useState(pairs(of.defaults.names));
  const { data: demands } = useDemands(site);
  const asked = demands
    ?.filter((d) => of.category === "" || d.category === of.category)
    .flatMap((d) => (JSON.parse(d.needs) as { attributes?: { ref: string }[] }).attributes ?? [])
    .map((x) => x.ref);
  const refs = [...new Set(asked ?? [])].sort();
  const body = {
    category: of.category,
    defaults: {
      blocks,
      texts: written(texts),
      title: of.defaults.title,
      terms: named || undefined,
      values: record(values),
      names: record(names),
    },
  };
  const changed = !same(body.defaults, {
    blocks: of.defaults.blocks ?? [],
    texts: of.defaults.texts ?? [],
    title: of.defaults.title,
    terms: of.defaults.terms || undefined,
    values: of.defaults.values ?? {},
    names: of.defaults.names ?? {},
  });
  const touched = useAnswer(
    ["prepare", "touched", site, body],
    (signal) => checkDefaults({ path: { id: site }, body }, signal),
    changed,
  );
  const keep = useUpdateDefaults(() => ({ path: { id: site }, body }));
  const send = () => changed && !keep.isPending && !touched.error && keep.mutate(undefined);
  useKeys({ ".": send }, true, [[".", "keep what holds here"]]);
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" mb="3" minH="38px">
        <chakra.div flex="1">
          {changed ? (
            <Touched of={touched.data} />
          ) : (
            <Quiet>
              It holds wherever a listing, its supplier or your words for values say nothing else. The nearer category
              stands over the one above.
            </Quiet>
          )}
        </chakra.div>
        <Button look="main" disabled={!changed || keep.isPending || !!touched.error} onClick={send}>
          Keep it <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={touched.error ?? keep.error} />
      <chakra.section aria-label="Selling terms" mb="4">
        <chakra.label display="flex" gap="2" alignItems="center">
          <b>Selling terms</b>
          <Select w="240px" value={named} onChange={(e) => setNamed(e.currentTarget.value)}>
            <option value="">{of.category ? "those of the category above" : "none"}</option>
            {terms.map((t) => (
              <option key={t} value={t}>
                {t}
              </option>
            ))}
          </Select>
        </chakra.label>
      </chakra.section>
      <Template
        site={site}
        category={of.category}
        blocks={blocks}
        texts={written(texts)}
        refs={refs}
        onChange={setBlocks}
      />
      <Texts texts={texts} onChange={setTexts} />
      <Pairs
        title="Where nothing else says it"
        from="Field"
        to="It is"
        options={["brand", "series", "pack", ...refs.map((r) => `attributes.${r}`)]}
        list={values}
        onChange={setValues}
      />
      <Pairs
        title="What suppliers call it"
        from="The place's"
        to="Your supplier's column or attribute"
        options={refs}
        list={names}
        onChange={setNames}
      />
    </>
  );
}

type PairsProps = {
  title: string;
  from: string;
  to: string;
  options: string[];
  list: Pair[];
  onChange: (list: Pair[]) => void;
};

function Pairs({ title, from, to, options, list, onChange }: PairsProps) {
  const put = (i: number, by: Partial<Pair>) => onChange(list.map((p, n) => (n === i ? { ...p, ...by } : p)));
  return (
    <chakra.section aria-label={title} mt="5">
      <chakra.h2 fontWeight="700" mb="1">
        {title}
      </chakra.h2>
      {list.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows have nothing else that stays
        <chakra.div key={i} display="flex" gap="2" py="0.5">
          <Select
            w="220px"
            aria-label={`${from} ${i + 1}`}
            value={p.key}
            onChange={(e) => put(i, { key: e.currentTarget.value })}
          >
            <option value="">choose one</option>
            {[...new Set([...options, p.key])].filter(Boolean).map((o) => (
              <option key={o} value={o}>
                {nameOf(o)}
              </option>
            ))}
          </Select>
          <Input
            w="300px"
            h="30px"
            aria-label={`${to} ${i + 1}`}
            placeholder={to}
            value={p.value}
            onChange={(e) => put(i, { value: e.target.value })}
          />
          <Button size="small" look="plain" onClick={() => onChange(list.filter((_, n) => n !== i))}>
            Leave out
          </Button>
        </chakra.div>
      ))}
      <Button size="small" onClick={() => onChange([...list, { key: "", value: "" }])}>
        Add one
      </Button>
    </chakra.section>
  );
}
