import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useFieldArray, useFormContext } from "react-hook-form";
import { api, dropOrders, read, type Schemas } from "../../api/client";
import { useDo, useSites } from "../../api/queries";
import { Button, Input, Quiet, Select } from "../../parts/controls";
import { Drop } from "../../parts/drop";
import { Form, Text, useKeep, WholeInput } from "../../parts/form";

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
function Report({ site }: { site: number }) {
  const [look, setLook] = useState<Schemas["OrderReport"]>();
  const [columns, setColumns] = useState<Record<string, string>>({});
  const [taken, setTaken] = useState<number>();
  const drop = useDo((f: File) => dropOrders(f, f.name, site));
  const take = useDo(
    (token: string) =>
      read(
        api.POST("/api/sites/{id}/order-reports/take", { params: { path: { id: site } }, body: { token, columns } }),
      ),
    "orders",
    "counts",
    "listings",
  );
  return (
    <Drop
      title="Its order report"
      more="A line of an order in each row (CSV, XLSX). Read twice, it is the same orders."
      busy={drop.isPending}
      error={drop.error ?? take.error}
      onFile={(f) =>
        drop.mutate(f, {
          onSuccess: (r) => {
            setLook(r);
            setTaken(undefined);
            setColumns(Object.fromEntries(r.columns.map((c) => [c.name, c.as])));
          },
        })
      }
    >
      {taken !== undefined && (
        <chakra.div role="status">
          {taken} {taken === 1 ? "order" : "orders"} taken.
        </chakra.div>
      )}
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
                  onSuccess: (r) => {
                    setTaken(r.count);
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
    topics: ["orders", "counts", "listings"],
    keep: (v: Values) =>
      read(
        api.POST("/api/orders", {
          body: {
            site_id: site,
            ref: v.ref,
            buyer: { name: v.name, address: v.address ? [v.address] : [], country: v.country },
            lines: v.lines.map((l) => ({ ...l, delivery: l.delivery || undefined })),
          },
        }),
      ),
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
            <Button type="button" size="small" aria-label={`Line ${i + 1} away`} onClick={() => remove(i)}>
              ×
            </Button>
          )}
        </chakra.div>
      ))}
      <Button type="button" size="small" onClick={() => append(one)}>
        One more line
      </Button>
    </chakra.div>
  );
}
