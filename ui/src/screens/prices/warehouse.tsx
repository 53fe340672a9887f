import { chakra } from "@chakra-ui/react";
import { useFieldArray, useFormContext } from "react-hook-form";
import { Button, Head, Input, Quiet } from "../../parts/controls";
import { useFault, WholeInput, Wrong } from "../../parts/form";
import type { Written } from "./schedule";

/** WarehouseEditor writes what a marketplace takes to keep, pack and send one
 * unit: steps by size and weight, of which the first that a product fits holds. */
export function WarehouseEditor({ onDrop }: { onDrop: () => void }) {
  const { control, register, getValues } = useFormContext<Written>();
  const steps = useFieldArray({ control, name: "warehouse.steps" });
  const another = () => {
    const last = getValues("warehouse.steps")?.at(-1);
    steps.append({ ...last, name: "", fee: last?.fee ?? "" });
  };
  return (
    <chakra.fieldset borderTopWidth="1px" borderColor="hair" py="2" aria-label="The warehouse's fees">
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap" pb="2">
        <Input w="160px" h="28px" aria-label="Name of the warehouse's fee" {...register("warehouse.name")} />
        <Quiet>where its warehouse keeps and sends</Quiet>
        <chakra.div flex="1" />
        <Button size="small" look="plain" aria-label="Without the warehouse's fees" onClick={onDrop}>
          ×
        </Button>
      </chakra.div>
      <chakra.table w="100%" style={{ tableLayout: "fixed", borderSpacing: "3px", borderCollapse: "separate" }}>
        <colgroup>
          <col style={{ width: "17%" }} />
          <col span={8} />
          <col style={{ width: "26px" }} />
        </colgroup>
        <thead>
          <tr>
            <Head left>step</Head>
            <Head>longest</Head>
            <Head>median</Head>
            <Head>shortest</Head>
            <Head>girth</Head>
            <Head>grams</Head>
            <Head>fee</Head>
            <Head>covers g</Head>
            <Head>per ½ kg</Head>
            <td />
          </tr>
        </thead>
        <tbody>
          {steps.fields.map((s, i) => (
            <Step key={s.id} at={i} onDrop={steps.fields.length > 1 ? () => steps.remove(i) : undefined} />
          ))}
        </tbody>
      </chakra.table>
      <Quiet display="block" fontSize="12.5px" py="1">
        Sides in millimetres, all up to and including; the first step that a product fits holds.
      </Quiet>
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <Button size="small" onClick={another}>
          Another step
        </Button>
        <chakra.label display="inline-flex" gap="1.5" alignItems="center">
          cubic mm to a gram of volume weight
          <WholeInput name="warehouse.divisor" w="70px" placeholder="none" empty />
        </chakra.label>
        <chakra.label display="inline-flex" gap="1.5" alignItems="center">
          tax on it
          <Input figures h="28px" w="70px" placeholder="none" {...register("warehouse.tax")} />
        </chakra.label>
      </chakra.div>
      <Wrong of={["warehouse.name", "warehouse.divisor", "warehouse.tax", "warehouse.root"]} />
    </chakra.fieldset>
  );
}

/** Step is one step of the warehouse's fees; what is wrong with it stands below. */
function Step({ at, onDrop }: { at: number; onDrop?: () => void }) {
  const { register } = useFormContext<Written>();
  const name = `warehouse.steps.${at}` as const;
  const fault = useFault(name);
  const cell = { h: "28px", w: "100%", px: "1" };
  const count = (key: string, label: string, placeholder = "any") => (
    <td>
      <WholeInput
        name={`${name}.${key}`}
        aria-label={`${label} of step ${at + 1}`}
        placeholder={placeholder}
        w="100%"
        px="1"
        empty
      />
    </td>
  );
  const amount = (key: "fee" | "half_kilo", label: string) => (
    <td>
      <Input
        figures
        {...cell}
        placeholder="none"
        aria-label={`${label} of step ${at + 1}`}
        {...register(`${name}.${key}`)}
      />
    </td>
  );
  return (
    <>
      <tr>
        <td>
          <Input {...cell} aria-label={`Name of step ${at + 1}`} {...register(`${name}.name`)} />
        </td>
        {count("longest", "Longest side")}
        {count("median", "Median side")}
        {count("shortest", "Shortest side")}
        {count("girth", "Girth")}
        {count("weight", "Grams")}
        {amount("fee", "Fee")}
        {count("over", "Grams covered", "0")}
        {amount("half_kilo", "Per half kilo")}
        <td>
          {onDrop && (
            <Button size="small" look="plain" px="1" aria-label={`Without step ${at + 1}`} onClick={onDrop}>
              ×
            </Button>
          )}
        </td>
      </tr>
      {fault && (
        <tr>
          <td colSpan={10}>
            <Wrong of={[name]} />
          </td>
        </tr>
      )}
    </>
  );
}
