import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useFieldArray, useFormContext } from "react-hook-form";
import type { Schemas } from "../../api/client";
import {
  createOrder,
  inspectOrderReport,
  inspectStatement,
  takeOrderReport,
  takeStatement,
} from "../../api/operations";
import { useDo, useSites } from "../../api/queries";
import { Button, Input, Quiet, Select } from "../../parts/controls";
import { Drop } from "../../parts/drop";
import { Form, Text, useKeep, WholeInput } from "../../parts/form";
import { money } from "../../parts/money";

/** Bring brings in orders of places that can't be asked: their report, or typed in. */
export function Bring({ onDone }: { onDone: () => void }) {
  const { data: sites } = useSites();
  const [site, setSite] = useState(0);
  const id = site || (sites?.find((s) => s.lists && !s.address)?.id ?? sites?.find((s) => s.lists)?.id ?? 0);
  return (
    <chakra.section aria-label="Bring in orders" bg="band" px="4" py="2" mb="2" rounded="3px">
      <chakra.label display="flex" gap="2" alignItems="center" py="1" fontWeight="600">
        Orders of
        <Select h="28px" value={id} onChange={(e) => setSite(Number(e.target.value))}>
          {sites
            ?.filter((s) => s.lists)
            .map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
        </Select>
      </chakra.label>
      {id > 0 && <Report key={`r${id}`} site={id} />}
      {id > 0 && <Statement key={`s${id}`} site={id} currency={sites?.find((x) => x.id === id)?.currency ?? ""} />}
      {id > 0 && <Typed key={`t${id}`} site={id} onDone={onDone} />}
    </chakra.section>
  );
}

const kinds: [string, string][] = [
  ["", "nothing"],
  ["order", "order"],
  ["line", "line"],
  ["placed", "day"],
  ["sku", "SKU"],
  ["title", "title"],
  ["quantity", "quantity"],
  ["price", "price of one"],
  ["delivery", "delivery paid"],
  ["tax", "tax"],
  ["fees", "fees"],
  ["state", "state"],
  ["buyer", "buyer"],
  ["address", "address"],
  ["country", "country"],
];

/** Report takes a place's order report: its columns are looked at once, and known from then on. */
const Report = ({ site }: { site: number }) => (
  <Columns
    title="Its order report"
    more="A line of an order in each row (CSV, XLSX). Read twice, it is the same orders."
    kinds={kinds}
    drop={(f) => inspectOrderReport({ path: { id: site }, query: { name: f.name }, body: f })}
    take={async (body) => {
      const got = await takeOrderReport({ path: { id: site }, body });
      return `${got.count} ${got.count === 1 ? "order" : "orders"} taken.`;
    }}
  />
);

const said: [string, string][] = [
  ["", "nothing"],
  ["order", "order"],
  ["amount", "amount"],
  ["kind", "what it is"],
  ["line", "line"],
  ["sku", "SKU"],
  ["day", "day"],
];

/** Statement takes what a place says it kept: the real fees. */
const Statement = ({ site, currency }: { site: number; currency: string }) => (
  <Columns
    title="Its statement"
    more="What it kept of each order, a row each (CSV, XLSX). A row that is read twice counts once."
    kinds={said}
    drop={(f) => inspectStatement({ path: { id: site }, query: { name: f.name }, body: f })}
    take={async (body) => {
      const got = await takeStatement({ path: { id: site }, body });
      const more = [
        got.apart > 0 && `${got.apart} of no order: they are in Earned and Books under their own names.`,
        got.left.length > 0 &&
          `Left, since they are no fees: ${got.left.map((x) => x || "rows without a word").join(", ")}.`,
        got.unknown.length > 0 && `Not here: ${got.unknown.join(", ")}.`,
      ];
      return [
        `${got.rows} ${got.rows === 1 ? "row" : "rows"} of fees read, ${got.new} new; ${money(got.kept, currency)} kept in all.`,
        ...more.filter(Boolean),
      ].join(" ");
    }}
  />
);

type ColumnsProps = {
  title: string;
  more: string;
  kinds: [string, string][];
  drop: (f: File) => Promise<Schemas["OrderReport"]>;
  take: (body: Schemas["OrderReportChoice"]) => Promise<string>; // says what came of it
};

/** Columns takes a file of a place: its columns are looked at once, and known from then on. */
function Columns({ title, more, kinds, ...file }: ColumnsProps) {
  const [look, setLook] = useState<Schemas["OrderReport"]>();
  const [columns, setColumns] = useState<Record<string, string>>({});
  const [came, setCame] = useState("");
  const drop = useDo(file.drop);
  const take = useDo((token: string) => file.take({ token, columns }));
  return (
    <Drop
      title={title}
      more={more}
      busy={drop.isPending}
      error={drop.error ?? take.error}
      onFile={(f) =>
        drop.mutate(f, {
          onSuccess: (r) => {
            setLook(r);
            setCame("");
            setColumns(Object.fromEntries(r.columns.map((c) => [c.name, c.as])));
          },
        })
      }
    >
      {came && <chakra.div role="status">{came}</chakra.div>}
      {look && (
        <chakra.div pt="2">
          {look.columns.map((c) => (
            <chakra.label key={c.name} display="flex" gap="3" py="0.5" alignItems="center">
              <chakra.b w="180px" truncate>
                {c.name}
              </chakra.b>
              <Quiet w="260px" truncate>
                {c.samples.join(", ")}
              </Quiet>
              <Select
                h="26px"
                value={columns[c.name] ?? ""}
                onChange={(e) => setColumns({ ...columns, [c.name]: e.target.value })}
              >
                {kinds.map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </Select>
            </chakra.label>
          ))}
          <chakra.div display="flex" gap="2" pt="2">
            <Button
              look="main"
              disabled={take.isPending}
              onClick={() =>
                take.mutate(look.token, {
                  onSuccess: (words) => {
                    setCame(words);
                    setLook(undefined);
                  },
                })
              }
            >
              Take its {look.rows} {look.rows === 1 ? "row" : "rows"}
            </Button>
            <Button onClick={() => setLook(undefined)}>Leave it</Button>
          </chakra.div>
        </chakra.div>
      )}
    </Drop>
  );
}

type Values = { ref: string; name: string; address: string; country: string; lines: Schemas["TypedLine"][] };

const one = { sku: "", quantity: 1, price: "", delivery: "" };

/** Typed is an order that is typed in. */
function Typed({ site, onDone }: { site: number; onDone: () => void }) {
  const keep = useKeep({
    values: { ref: "", name: "", address: "", country: "", lines: [one] } as Values,
    keep: (v: Values) =>
      createOrder({
        body: {
          site_id: site,
          ref: v.ref,
          buyer: { name: v.name, address: v.address ? [v.address] : [], country: v.country },
          lines: v.lines.map((l) => ({ ...l, delivery: l.delivery || undefined })),
        },
      }),
    done: onDone,
  });
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="Type an order in" pt="2">
      <chakra.h3 fontWeight="700">Type one in</chakra.h3>
      <chakra.div display="flex" gap="3" flexWrap="wrap" alignItems="flex-end">
        <Text upright name="ref" label="Order" w="130px" />
        <Text upright name="name" label="Buyer" w="180px" />
        <Text upright name="address" label="Address" w="300px" />
        <Text upright upper name="country" label="Country" w="64px" hint="GB" />
      </chakra.div>
      <TypedLines />
      <Button type="submit" look="main" disabled={keep.busy} mt="2">
        Keep the order
      </Button>
    </Form>
  );
}

function TypedLines() {
  const { fields, append, remove } = useFieldArray<Values, "lines">({ name: "lines" });
  const { register } = useFormContext<Values>();
  return (
    <chakra.div pt="2">
      {fields.map((f, i) => (
        <chakra.div key={f.id} display="flex" gap="2" py="0.5" alignItems="center">
          <Input aria-label={`SKU ${i + 1}`} placeholder="SKU" w="150px" h="28px" {...register(`lines.${i}.sku`)} />
          <WholeInput aria-label={`Units ${i + 1}`} name={`lines.${i}.quantity`} w="60px" />
          <Input
            aria-label={`Price ${i + 1}`}
            placeholder="price of one"
            figures
            w="132px"
            h="28px"
            {...register(`lines.${i}.price`)}
          />
          <Input
            aria-label={`Delivery ${i + 1}`}
            placeholder="delivery"
            figures
            w="90px"
            h="28px"
            {...register(`lines.${i}.delivery`)}
          />
          {fields.length > 1 && (
            <Button size="small" aria-label={`Line ${i + 1} away`} onClick={() => remove(i)}>
              ×
            </Button>
          )}
        </chakra.div>
      ))}
      <Button size="small" onClick={() => append(one)}>
        One more line
      </Button>
    </chakra.div>
  );
}
