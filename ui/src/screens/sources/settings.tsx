import { chakra } from "@chakra-ui/react";
import { ifMatch, type Schemas } from "../../api/client";
import { updateSourceSettings } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Input, Quiet, Trouble } from "../../parts/controls";
import { Choose, Figure, Form, Text, useKeep, Whole, Wrong } from "../../parts/form";
import { Panel } from "../../parts/panel";
import { CostsTax } from "./costs";
import { useSourceSettings } from "./queries";

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
      {data && <SettingsForm source={source} before={data} onClose={onClose} />}
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

/** Values are the settings as they are written: words and what they mean in one line. */
type Values = Omit<Settings, "stock_words" | "words" | "version"> & { stock_words: string; words: string };

function valuesOf({ version: _, ...s }: Settings): Values {
  return {
    ...s,
    tax: s.tax ?? ("" as Settings["tax"]),
    password: "",
    stock_words: pairs(s.stock_words),
    words: pairs(s.words),
  };
}

const Head = chakra("h3", { base: { fontWeight: "700", color: "quiet", fontSize: "12.5px", mt: "3" } });

const units = (list: string[]): [string, string][] => [
  ["", "must be said"],
  ...list.map((u): [string, string] => [u, u]),
];

function SettingsForm({ source, before, onClose }: { source: Source; before: Settings; onClose: () => void }) {
  const owner = useClock().data?.rights.includes("settings"); // buyers' names and addresses go where orders go
  const keep = useKeep<Values, unknown>({
    values: valuesOf(before),
    version: before.version,
    written: (now) => valuesOf(now as Settings),
    keep: (v, version) =>
      updateSourceSettings({
        path: { id: source.id },
        header: ifMatch(version),
        body: { ...v, tax: v.tax || undefined, stock_words: unpairs(v.stock_words), words: unpairs(v.words) },
      }),
    done: onClose,
  });
  const words = (name: "stock_words" | "words", label: string, hint: string) => (
    <>
      <chakra.label display="block" py="1">
        {label}
        <Input w="100%" h="28px" placeholder={hint} {...keep.form.register(name)} />
      </chakra.label>
      <Wrong of={[name]} />
    </>
  );
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error}>
      <Head>How it comes</Head>
      <Choose
        name="mode"
        label="What a feed lists"
        options={[
          ["full", "all there is"],
          ["update", "only what changed"],
        ]}
      />
      {source.address && <Whole name="every" label="Look every … minutes, 0 never" />}
      {source.kind === "address" && <Text name="username" label="User, if one is asked for" w="168px" />}
      {source.kind === "address" && <Text secret name="password" label="Password" hint="kept as it is" w="168px" />}
      <chakra.label display="flex" justifyContent="space-between" alignItems="center" minH="28px" gap="2">
        Look new products up on every site
        <input type="checkbox" {...keep.form.register("look_up")} />
      </chakra.label>
      <Head>What {source.supplier} asks for delivering</Head>
      {source.unsaid && (
        <chakra.p color="loss" py="1">
          Nothing of it is priced until you say what they charge to deliver an order and whether there is tax in their
          costs: 0 and none are answers.
        </chakra.p>
      )}
      <Figure name="charge" label={`One order, ${source.currency}`} />
      <Figure name="free_from" label="Free from" hint="never" />
      <Figure name="least" label="Least purchase" hint="any" />
      <Text
        name="orders_to"
        label={owner ? "Orders go to" : "Orders go to (set by the owner)"}
        hint="mail address"
        w="200px"
        fixed={!owner}
      />
      <CostsTax />
      <Figure name="duty" label="Duty on goods and delivery, %" hint="none" />
      <Whole name="days" label="Working days" />
      <Head>How it is read</Head>
      <Whole name="some_stock" label="“In stock” without a number means" />
      <Choose
        name="decimal"
        label="Decimal sign where nothing proves one"
        options={[
          ["", "as the currency has it"],
          ["point", "point, 12.40"],
          ["comma", "comma, 12,40"],
        ]}
      />
      <Choose name="weight_unit" label="Weights without a unit" options={units(["g", "kg", "oz", "lb"])} />
      <Choose name="length_unit" label="Lengths without a unit" options={units(["mm", "cm", "m", "in", "ft"])} />
      {words("stock_words", "Their words for stock", "on the way = 0, plenty = some")}
      {words("words", "Their names for columns", "dealer rate = cost")}
      <Head>When a feed is held for you</Head>
      <Whole name="guards.fewest_rows" label="Rows fall below … % of the last" />
      <Whole name="guards.most_aside" label="Rows set aside, over … %" />
      <Whole name="guards.most_moved" label="Costs moved by half, over … %" />
      <Whole name="guards.most_together" label="Costs moved 30 % one way, over … %" />
      <Whole name="guards.most_to_zero" label="Products running out, over … %" />
      <Whole name="guards.most_jumped" label="Stocks that jumped, over … %" />
      <Whole name="guards.most_other" label="Rows of another thing, over … %" />
      <Head>When its stock is no longer believed</Head>
      <Whole name="guards.missing_feeds" label="Feeds a product misses before it is gone" />
      <Whole
        name="guards.stale_hours"
        label="Hours without a feed before all of it is unknown; 0: by how its feeds come"
      />
      <Wrong of={["guards"]} />
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="3">
        <Button look="main" type="submit" disabled={keep.busy}>
          Keep these
        </Button>
        <Quiet>The next feed is read by them.</Quiet>
      </chakra.div>
    </Form>
  );
}
