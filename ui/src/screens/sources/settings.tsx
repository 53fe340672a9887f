import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, read, type Schemas } from "../../api/client";
import { useDo, useSourceSettings } from "../../api/queries";
import { Button, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { Panel } from "../../parts/panel";

type Source = Schemas["SourceView"];
type Settings = Schemas["SourceSettings"];

/** SettingsPanel is how a source is fetched, read and guarded. */
export function SettingsPanel({ source, onClose }: { source: Source; onClose: () => void }) {
  const { data, error } = useSourceSettings(source.id);
  return (
    <Panel label={`Settings of ${source.name}`} onClose={onClose}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" mb="2" pr="14">
        {source.name}
      </chakra.h2>
      <Trouble error={error} />
      {data && <Form source={source} before={data} onClose={onClose} />}
    </Panel>
  );
}

const pairs = (m: Record<string, string>) =>
  Object.entries(m)
    .map(([k, v]) => `${k} = ${v}`)
    .join(", ");

/** unpairs reads "word = meaning, word = meaning". */
export function unpairs(text: string): Record<string, string> {
  const out: Record<string, string> = {};
  for (const part of text.split(/[,\n]/)) {
    const [k, ...v] = part.split("=");
    if (k.trim() && v.length) out[k.trim()] = v.join("=").trim();
  }
  return out;
}

const Row = chakra("label", {
  base: { display: "grid", gridTemplateColumns: "1fr 168px", gap: "3", alignItems: "center", py: "1" },
});
const Head = chakra("h3", { base: { fontWeight: "700", color: "quiet", fontSize: "12.5px", mt: "3" } });

function Form({ source, before, onClose }: { source: Source; before: Settings; onClose: () => void }) {
  const [v, setV] = useState<Settings>({ ...before, password: "" });
  const [stock, setStock] = useState(pairs(before.stock_words));
  const [names, setNames] = useState(pairs(before.words));
  const keep = useDo(
    () => {
      const { mode, every, look_up, charge, free_from, duty, days, some_stock, decimal, weight_unit, length_unit } = v;
      const { guards, username, password } = v;
      return read(
        api.PUT("/api/sources/{id}/settings", {
          params: { path: { id: source.id } },
          body: {
            ...{ mode, every, look_up, charge, free_from, duty, days, some_stock, decimal, weight_unit, length_unit },
            ...{ guards, username, password, stock_words: unpairs(stock), words: unpairs(names) },
          },
        }),
      );
    },
    "sources",
    "listings",
  );
  const wrong = keep.error instanceof Problem ? keep.error.fields : {};
  const text = (name: "charge" | "free_from" | "duty" | "username" | "password", label: string, more?: string) => (
    <Row>
      {label}
      <Input
        w="100%"
        h="28px"
        figures={name === "charge" || name === "free_from" || name === "duty"}
        type={name === "password" ? "password" : "text"}
        autoComplete="off"
        placeholder={more}
        value={v[name]}
        aria-invalid={!!wrong[name]}
        onChange={(e) => setV({ ...v, [name]: e.target.value })}
      />
    </Row>
  );
  const whole = (label: string, value: number, set: (n: number) => void) => (
    <Row>
      {label}
      <Input
        w="100%"
        h="28px"
        figures
        inputMode="numeric"
        value={String(value)}
        onChange={(e) => /^\d*$/.test(e.target.value) && set(Number(e.target.value))}
      />
    </Row>
  );
  const choose = (
    name: "mode" | "decimal" | "weight_unit" | "length_unit",
    label: string,
    options: [string, string][],
  ) => (
    <Row>
      {label}
      <Select h="28px" w="100%" value={v[name]} onChange={(e) => setV({ ...v, [name]: e.target.value } as Settings)}>
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </Select>
    </Row>
  );
  const guard = (name: keyof Settings["guards"], label: string) =>
    whole(label, v.guards[name], (n) => setV({ ...v, guards: { ...v.guards, [name]: n } }));
  const units = (list: string[]): [string, string][] => [
    ["", "must be said"],
    ...list.map((u): [string, string] => [u, u]),
  ];
  return (
    <chakra.form
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(undefined, { onSuccess: onClose });
      }}
    >
      <Head>How it comes</Head>
      {choose("mode", "What a feed lists", [
        ["full", "all there is"],
        ["update", "only what changed"],
      ])}
      {source.address && whole("Look every … minutes, 0 never", v.every, (every) => setV({ ...v, every }))}
      {source.kind === "address" && text("username", "User, if one is asked for")}
      {source.kind === "address" && text("password", "Password", "kept as it is")}
      <Row>
        Look new products up on every site
        <input
          type="checkbox"
          checked={v.look_up}
          onChange={(e) => setV({ ...v, look_up: e.target.checked })}
          style={{ justifySelf: "end" }}
        />
      </Row>
      <Head>What their delivery costs</Head>
      {text("charge", `One order, ${source.currency}`)}
      {text("free_from", "Free from", "never")}
      {text("duty", "Duty on goods and delivery, %", "none")}
      {whole("Working days", v.days, (days) => setV({ ...v, days }))}
      <Head>How it is read</Head>
      {whole("“In stock” without a number means", v.some_stock, (some_stock) => setV({ ...v, some_stock }))}
      {choose("decimal", "Decimal sign where nothing proves one", [
        ["", "as the currency has it"],
        ["point", "point, 12.40"],
        ["comma", "comma, 12,40"],
      ])}
      {choose("weight_unit", "Weights without a unit", units(["g", "kg", "oz", "lb"]))}
      {choose("length_unit", "Lengths without a unit", units(["mm", "cm", "m", "in", "ft"]))}
      <chakra.label display="block" py="1">
        Their words for stock
        <Input
          w="100%"
          h="28px"
          placeholder="on the way = 0, plenty = some"
          value={stock}
          aria-invalid={!!wrong.stock_words}
          onChange={(e) => setStock(e.target.value)}
        />
      </chakra.label>
      <chakra.label display="block" py="1">
        Their names for columns
        <Input
          w="100%"
          h="28px"
          placeholder="dealer rate = cost"
          value={names}
          aria-invalid={!!wrong.words}
          onChange={(e) => setNames(e.target.value)}
        />
      </chakra.label>
      <Head>When a feed is held for you</Head>
      {guard("fewest_rows", "Rows fall below … % of the last")}
      {guard("most_aside", "Rows set aside, over … %")}
      {guard("most_moved", "Costs moved by half, over … %")}
      {guard("most_to_zero", "Products running out, over … %")}
      {guard("missing_feeds", "Feeds a product misses before it is gone")}
      <Trouble error={keep.error} />
      <chakra.div display="flex" gap="3" alignItems="center" py="3">
        <Button look="main" type="submit" disabled={keep.isPending}>
          Keep these
        </Button>
        <Quiet>The next feed is read by them.</Quiet>
      </chakra.div>
    </chakra.form>
  );
}
