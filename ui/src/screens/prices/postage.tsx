import { chakra } from "@chakra-ui/react";
import { useFieldArray, useFormContext } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { Button, Head, Input, Quiet } from "../../parts/controls";
import { useFault, WholeInput, Wrong } from "../../parts/form";

type Terms = Schemas["SiteTerms"];
type Bands = "delivery_bands" | "sending_bands";

/** Postage writes bands of postage in the place of one amount: by where a parcel goes, its weight and
 * size, and for what the buyer pays by the price too. The first that a parcel fits into holds. */
export function Postage({ name, title, from, flat }: { name: Bands; title: string; from?: boolean; flat: string }) {
  const { control, getValues } = useFormContext<Terms>();
  const bands = useFieldArray({ control, name });
  const another = () => {
    const last = getValues(name)?.at(-1);
    bands.append({ ...last, amount: last?.amount ?? "", from: from ? "" : undefined });
  };
  if (bands.fields.length === 0)
    return (
      <Button size="small" look="plain" onClick={() => bands.append({ amount: getValues(flat as "charged") ?? "" })}>
        By weight, size, country{from && " or price"}…
      </Button>
    );
  return (
    <chakra.fieldset borderTopWidth="1px" borderColor="hair" pt="1" pb="2" my="1" aria-label={title}>
      {title}
      <chakra.table w="100%" style={{ tableLayout: "fixed", borderSpacing: "3px", borderCollapse: "separate" }}>
        <thead>
          <tr>
            <Head left>to</Head>
            <Head>up to g</Head>
            <Head>longest</Head>
            <Head>middle</Head>
            <Head>shortest</Head>
            {from && <Head>price from</Head>}
            <Head>{from ? "buyer pays" : "costs you"}</Head>
            <td style={{ width: "26px" }} />
          </tr>
        </thead>
        <tbody>
          {bands.fields.map((b, i) => (
            <Band key={b.id} list={name} at={i} title={title} from={from} onDrop={() => bands.remove(i)} />
          ))}
        </tbody>
      </chakra.table>
      <Wrong of={[`${name}.root`]} />
      <Quiet display="block" fontSize="12.5px" py="1">
        Sides in millimetres, all up to and including; empty: any. The first band that a parcel fits into holds; a
        country with bands of its own uses these alone.
      </Quiet>
      <Button size="small" onClick={another}>
        Another band
      </Button>
    </chakra.fieldset>
  );
}

type BandProps = { list: Bands; at: number; title: string; from?: boolean; onDrop: () => void };

/** Band is one band; what is wrong with it stands below. */
function Band({ list, at, title, from, onDrop }: BandProps) {
  const { register } = useFormContext<Terms>();
  const name = `${list}.${at}` as const;
  const fault = useFault(name);
  const of = `of band ${at + 1}, ${title}`;
  const count = (key: "weight" | "longest" | "median" | "shortest", label: string) => (
    <td>
      <WholeInput name={`${name}.${key}`} aria-label={`${label} ${of}`} placeholder="any" w="100%" px="1" empty />
    </td>
  );
  const text = (key: "from" | "amount" | "to", label: string, placeholder: string) => (
    <td>
      <Input
        figures={key !== "to"}
        h="28px"
        w="100%"
        px="1"
        placeholder={placeholder}
        textTransform={key === "to" ? "uppercase" : undefined}
        _placeholder={{ textTransform: "none" }}
        aria-label={`${label} ${of}`}
        {...register(`${name}.${key}`)}
      />
    </td>
  );
  return (
    <>
      <tr>
        {text("to", "Country", "any")}
        {count("weight", "Grams")}
        {count("longest", "Longest side")}
        {count("median", "Middle side")}
        {count("shortest", "Shortest side")}
        {from && text("from", "Price from", "any")}
        {text("amount", "Amount", "0.00")}
        <td>
          <Button size="small" look="plain" px="1" aria-label={`Without band ${at + 1}, ${title}`} onClick={onDrop}>
            ×
          </Button>
        </td>
      </tr>
      {fault && (
        <tr>
          <td colSpan={8}>
            <Wrong of={[name]} />
          </td>
        </tr>
      )}
    </>
  );
}
