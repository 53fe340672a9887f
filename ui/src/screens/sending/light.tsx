import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useFieldArray, useFormContext } from "react-hook-form";
import { download, type Schemas } from "../../api/client";
import {
  createPriceStockFile,
  updatePriceStockFile,
  useDeletePriceStockFile,
  useDeliverPriceStockFile,
  useListPriceStockFiles,
} from "../../api/operations";
import { useClock, useDo, useSites } from "../../api/queries";
import { Button, Code, Input, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { Choose, Form, Text, useKeep, Whole, Wrong } from "../../parts/form";
import { time } from "../../parts/when";

type Light = Schemas["LightFile"];

const parts: Record<Light["part"], string> = {
  all: "all that is on sale",
  changed: "what changed since the last",
  end: "what isn't to be sold any more",
};

const froms: [NonNullable<Schemas["LightColumn"]["from"]>, string][] = [
  ["sku", "SKU"],
  ["entry", "entry"],
  ["price", "price"],
  ["quantity", "quantity"],
  ["do", "action"],
  ["title", "title"],
  ["number", "number"],
  ["brand", "brand"],
  ["category", "category"],
  ["currency", "currency"],
  ["", "the same in all:"],
];

const fresh: Light = {
  id: 0,
  version: 0,
  site_id: 0,
  site: "",
  name: "price-and-stock.csv",
  part: "all",
  columns: [
    { header: "sku", from: "sku" },
    { header: "price", from: "price" },
    { header: "quantity", from: "quantity" },
  ],
  output: {},
  every_minutes: 0,
  target: "",
  known: false,
  due: null,
  made: null,
  rows: 0,
  error: "",
};

/** LightFiles are files of price and stock alone: what is on sale, as it was
 * confirmed, and never more than there is. */
export function LightFiles() {
  const { data, error } = useListPriceStockFiles();
  const [open, setOpen] = useState<Light>();
  return (
    <chakra.section aria-label="Light files" pt="4" pb="3">
      <chakra.div display="flex" gap="3" alignItems="baseline">
        <chakra.h2 fontWeight="700" fontSize="14.5px">
          Light files
        </chakra.h2>
        <Quiet flex="1">
          Price and stock alone: prices as confirmed, and never more than there is when the file is made.
        </Quiet>
        <Button size="small" onClick={() => setOpen(open?.id === 0 ? undefined : fresh)} aria-expanded={open?.id === 0}>
          New light file…
        </Button>
      </chakra.div>
      <Trouble error={error} />
      {open?.id === 0 && <LightForm key="new" of={open} onDone={() => setOpen(undefined)} />}
      {data?.map((f) => (
        <chakra.div key={f.id} borderBottomWidth="1px" borderColor="hair">
          <One file={f} open={open?.id === f.id} onOpen={() => setOpen(open?.id === f.id ? undefined : f)} />
          {open?.id === f.id && <LightForm key={f.id} of={f} onDone={() => setOpen(undefined)} />}
        </chakra.div>
      ))}
    </chakra.section>
  );
}

function One({ file: f, open, onOpen }: { file: Light; open: boolean; onOpen: () => void }) {
  const { data: clock } = useClock();
  const path = { path: { id: f.id } };
  const give = useDeliverPriceStockFile(() => path);
  const get = useDo(() => download(`/api/v1/price-stock-files/${f.id}/content`, f.name));
  const drop = useDeletePriceStockFile(() => path);
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        <chakra.strong w="210px" truncate title={f.name}>
          {f.name}
        </chakra.strong>
        <chakra.span w="130px">{f.site}</chakra.span>
        <chakra.span w="210px">{parts[f.part]}</chakra.span>
        <chakra.span flex="1" minW="0" truncate title={f.target}>
          {f.target || <Quiet>to be downloaded</Quiet>}
          {f.every_minutes > 0 && <Quiet> every {every(f.every_minutes)}</Quiet>}
        </chakra.span>
        {f.made && (
          <span>
            <Code color="ink">{f.rows}</Code> {f.rows === 1 ? "row" : "rows"} <Quiet>{time(f.made, clock?.now)}</Quiet>
          </span>
        )}
        {f.error && <Word tone="bad">not given</Word>}
        {f.target ? (
          <Button size="small" disabled={give.isPending} onClick={() => give.mutate(undefined)}>
            Give it now
          </Button>
        ) : (
          <Button size="small" disabled={get.isPending} onClick={() => get.mutate(undefined)}>
            Download
          </Button>
        )}
        <a href={`/api/v1/price-stock-files/${f.id}/schema`} download>
          <Button as="span" size="small">
            Schema
          </Button>
        </a>
        <Button size="small" aria-expanded={open} onClick={onOpen}>
          {open ? "Close" : "Change…"}
        </Button>
        <Button size="small" disabled={drop.isPending} onClick={() => drop.mutate(undefined)}>
          Forget
        </Button>
      </chakra.div>
      {f.error && (
        <chakra.div color="loss" pb="1">
          {f.error}
        </chakra.div>
      )}
      <Trouble error={give.error ?? get.error ?? drop.error} />
    </>
  );
}

const every = (minutes: number) =>
  minutes % 60 === 0 ? (minutes === 60 ? "hour" : `${minutes / 60} hours`) : `${minutes} minutes`;

function LightForm({ of, onDone }: { of: Light; onDone: () => void }) {
  const { data: sites } = useSites();
  const first = sites?.find((s) => s.lists)?.id ?? 0;
  const keep = useKeep({
    values: { ...of, only: [of.only?.join(" ") ?? ""], site_id: of.site_id || first },
    version: of.version,
    keep: (v: Light, version?: number) => {
      const only = v.only?.flatMap((s) => s.split(/[\s,;]+/)).filter(Boolean);
      const body = { ...v, only, site_id: Number(v.site_id) || first };
      return of.id
        ? updatePriceStockFile({ path: { id: of.id }, header: { "If-Match": `"${version}"` }, body })
        : createPriceStockFile({ body });
    },
    done: onDone,
  });
  return (
    <Form
      form={keep.form}
      onSubmit={keep.submit}
      error={keep.error}
      label="A light file"
      focus
      bg="band"
      px="4"
      py="3"
      rounded="3px"
      mb="2"
    >
      <chakra.div display="grid" gridTemplateColumns="minmax(0, 1fr) minmax(0, 1.3fr)" gap="6">
        <div>
          <Text name="name" label="File" w="260px" />
          <Choose
            name="site_id"
            label="Site"
            w="260px"
            options={(sites ?? []).map((s): [string, string] => [String(s.id), s.name])}
          />
          <Choose name="part" label="What is in it" w="260px" options={Object.entries(parts) as [string, string][]} />
          <Text name="only.0" label="Only these SKUs" hint="all" w="260px" />
          <Text name="target" label="Goes to" hint="a folder, or an address for PUT" w="260px" />
          <Whole name="every_minutes" label="Every" unit="minutes; 0: when asked" />
          <Text name="username" label="User name" w="260px" />
          <Text name="password" label="Password" hint={of.known ? "kept" : ""} w="260px" secret />
        </div>
        <div>
          <Columns />
          <chakra.div display="flex" gap="4" mt="2" flexWrap="wrap">
            <Choose
              name="output.delimiter"
              label="Between"
              w="112px"
              options={[
                ["", "comma"],
                ["semicolon", "semicolon"],
              ]}
            />
            <Choose
              name="output.decimal"
              label="Decimals"
              w="104px"
              options={[
                ["", "point"],
                ["comma", "comma"],
              ]}
            />
            <Choose
              name="output.encoding"
              label="Encoding"
              w="128px"
              options={[
                ["", "utf-8"],
                ["utf-8-bom", "utf-8 with mark"],
                ["windows-1252", "windows-1252"],
                ["utf-16", "utf-16"],
              ]}
            />
          </chakra.div>
        </div>
      </chakra.div>
      {keep.clash}
      <chakra.div display="flex" gap="2" mt="3">
        <Button type="submit" look="main" disabled={keep.busy}>
          Keep it
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </chakra.div>
    </Form>
  );
}

/** Columns are what a light file has, in their order. */
function Columns() {
  const { fields, append, remove, move } = useFieldArray<Light, "columns">({ name: "columns" });
  const { register, watch } = useFormContext<Light>();
  const columns = watch("columns");
  return (
    <fieldset>
      <chakra.legend fontWeight="600" mb="1">
        Columns
      </chakra.legend>
      {fields.map((f, i) => (
        <chakra.div key={f.id} display="flex" gap="2" mb="1" alignItems="center">
          <Input
            h="28px"
            w="150px"
            aria-label={`Header of column ${i + 1}`}
            {...register(`columns.${i}.header`)}
            autoComplete="off"
          />
          <Select h="28px" w="150px" aria-label={`What column ${i + 1} says`} {...register(`columns.${i}.from`)}>
            {froms.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </Select>
          {!columns[i]?.from && (
            <Input h="28px" w="110px" aria-label={`Value of column ${i + 1}`} {...register(`columns.${i}.value`)} />
          )}
          {columns[i]?.from === "do" && (
            <>
              <Input
                h="28px"
                w="70px"
                aria-label="Word for a change"
                placeholder="change"
                {...register("change_word")}
              />
              <Input h="28px" w="70px" aria-label="Word for the end" placeholder="end" {...register("end_word")} />
            </>
          )}
          <Button size="small" aria-label={`Column ${i + 1} up`} disabled={i === 0} onClick={() => move(i, i - 1)}>
            ↑
          </Button>
          <Button size="small" aria-label={`Column ${i + 1} away`} onClick={() => remove(i)}>
            ×
          </Button>
        </chakra.div>
      ))}
      <Button size="small" onClick={() => append({ header: "action", from: "do" })}>
        One more column
      </Button>
      <Wrong of={["columns"]} />
    </fieldset>
  );
}
