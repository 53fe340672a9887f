import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useFormContext, useWatch } from "react-hook-form";
import { ifMatch, type Schemas } from "../../api/client";
import { createWatch, updateWatch, useDeleteWatch } from "../../api/operations";
import { useListings, useSieves, useSites } from "../../api/queries";
import { Button, Input, Quiet, Trouble } from "../../parts/controls";
import { Choose, Figure, Form, Line, Text, Tick, useKeep, Whole } from "../../parts/form";
import { Panel } from "../../parts/panel";

type W = Schemas["Watch"];

const numbers: [NonNullable<W["number"]>, string][] = [
  ["cost", "landed cost"],
  ["stock", "supplier's stock"],
  ["price", "price on sale"],
  ["lowest", "lowest rival"],
  ["leading", "leading rival"],
  ["sellers", "sellers"],
  ["profit", "profit of a sale"],
  ["margin", "margin"],
  ["rating", "rating"],
  ["return rate", "returned of what was sold in sixty days"],
  ["feed age", "age of the feed"],
];

const units: Record<string, string> = {
  stock: "units",
  sellers: "sellers",
  margin: "%",
  rating: "stars",
  "return rate": "%",
  "feed age": "hours",
};

type Written = Omit<W, "site_id" | "sieve_id"> & { site_id: string; sieve_id: string };

const blank = { number: "stock", test: "below", value: "", once: false, mail: false, active: true } as W;

const toText = (w: W): Written => ({ ...w, site_id: String(w.site_id ?? ""), sieve_id: String(w.sieve_id ?? "") });

const toWatch = (t: Written) =>
  ({
    name: t.name,
    number: t.number,
    test: t.test,
    value: t.value,
    once: t.once,
    mail: t.mail,
    active: t.active,
    quiet_hours: t.quiet_hours || undefined,
    product_id: t.product_id || undefined,
    site_id: Number(t.site_id) || undefined,
    sieve_id: Number(t.sieve_id) || undefined,
  }) as W;

type FormProps = { watch?: W; onClose: () => void };

/** WatchForm makes a watch, or changes one; of a ready-made one only how it tells. */
export function WatchForm({ watch: w, onClose }: FormProps) {
  const keep = useKeep<Written, unknown>({
    values: toText(w ?? blank),
    version: w?.version,
    written: (now) => toText(now as W),
    keep: (t, version) =>
      w
        ? updateWatch({ path: { id: w.id }, header: ifMatch(version), body: toWatch(t) })
        : createWatch({ body: toWatch(t) }),
    done: onClose,
  });
  const drop = useDeleteWatch(() => ({ path: { id: w?.id ?? 0 } }));
  return (
    <Panel label={w ? "A watch" : "Watch a number"} onClose={onClose}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" mb="2" pr="12">
        {w ? w.name : "Watch a number"}
      </chakra.h2>
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="Watch" focus>
        {w?.ready ? <Quiet>{w.words}.</Quiet> : <Condition />}
        <chakra.div mt="2">
          <Tick name="mail" label="By mail too; many at once make one mail" />
          {!w?.ready && <Tick name="once" label="Only once: it ends when it was set off" />}
          <Tick name="active" label="Awake" />
          {w && <Whole name="quiet_hours" label="Quiet from now on for" unit="hours" />}
        </chakra.div>
        {keep.clash}
        <chakra.div display="flex" gap="2" pt="3">
          <Button look="main" type="submit" disabled={keep.busy}>
            {w ? "Keep it" : "Watch it"}
          </Button>
          {w && !w.ready && (
            <Button disabled={drop.isPending} onClick={() => drop.mutate(undefined, { onSuccess: onClose })}>
              Drop it
            </Button>
          )}
        </chakra.div>
        <Trouble error={drop.error} />
      </Form>
    </Panel>
  );
}

/** Condition is which number of what is watched, and for what. */
function Condition() {
  const { control } = useFormContext<Written>();
  const { data: sites } = useSites();
  const { data: sieves } = useSieves();
  const [number, test, site, product] = useWatch({ control, name: ["number", "test", "site_id", "product_id"] });
  const currency = sites?.find((s) => String(s.id) === site)?.currency ?? "";
  return (
    <>
      <Choose name="number" label="Which number" options={numbers} />
      <Choose
        name="test"
        label="tells when it"
        options={[
          ["below", "is below"],
          ["above", "is above"],
          ["moved", "moves by more than"],
        ]}
      />
      <Figure name="value" label="the value" unit={test === "moved" ? "%" : (units[number ?? ""] ?? currency)} />
      <Choose
        name="site_id"
        label="on"
        options={[
          ["", "every site"],
          ...(sites?.filter((s) => s.lists).map((s): [string, string] => [String(s.id), s.name]) ?? []),
        ]}
      />
      <Product />
      {!product && (
        <Choose
          name="sieve_id"
          label="of"
          options={[
            ["", "everything listed"],
            ...(sieves?.sieves.map((s): [string, string] => [String(s.id), `sieve ${s.name}`]) ?? []),
          ]}
        />
      )}
      <Text name="name" label="Call it" w="200px" hint="what it says" />
    </>
  );
}

/** Product picks the one product that is watched; none is all of them. */
function Product() {
  const { setValue, control } = useFormContext<Written>();
  const [words, setWords] = useState("");
  const [picked, setPicked] = useState("");
  const id = useWatch({ control, name: "product_id" });
  const known = useWatch({ control, name: "product" });
  const found = useListings({ words }, words.length > 1);
  const pick = (to: number | undefined, title: string) => {
    setValue("product_id", to, { shouldDirty: true });
    setPicked(title);
    setWords("");
  };
  return (
    <Line label="only the product" faults={["product_id"]}>
      {id ? (
        <Button size="small" onClick={() => pick(undefined, "")} title="Not only this one">
          <chakra.span maxW="190px" truncate>
            {picked || known}
          </chakra.span>{" "}
          ×
        </Button>
      ) : (
        <chakra.span position="relative">
          <Input
            h="28px"
            w="200px"
            aria-label="Find a product"
            placeholder="any; words, SKU or number"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
          {words.length > 1 && (
            <chakra.ul
              position="absolute"
              zIndex="2"
              top="30px"
              right="0"
              w="300px"
              bg="panel"
              borderWidth="1px"
              borderColor="hair"
              shadow="lifted"
            >
              {found.rows.slice(0, 6).map((l) => (
                <li key={l.id}>
                  <chakra.button
                    type="button"
                    onClick={() => pick(l.product_id, l.title)}
                    w="100%"
                    textAlign="left"
                    px="2"
                    py="1"
                    cursor="pointer"
                    truncate
                    _hover={{ bg: "band" }}
                  >
                    {l.title} <Quiet>{l.site}</Quiet>
                  </chakra.button>
                </li>
              ))}
            </chakra.ul>
          )}
        </chakra.span>
      )}
    </Line>
  );
}
