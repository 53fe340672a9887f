import { chakra } from "@chakra-ui/react";
import { Fragment } from "react";
import { Button, Head, Input, Quiet } from "../../parts/controls";
import { Fault, type faults } from "../../parts/field";
import type { Written } from "./bands";
import { percent } from "./ruleform";

export type Warehouse = NonNullable<Written["warehouse"]>;
type Step = Warehouse["steps"][number];

const measures = ["longest", "median", "shortest", "girth", "weight"] as const;

/** cleanWarehouse drops what is empty, and adds the sign that is easily left out. */
export function cleanWarehouse(w: Warehouse): Warehouse {
  const may = (v?: string) => v?.trim() || undefined;
  return {
    ...w,
    name: w.name.trim(),
    divisor: w.divisor || undefined,
    tax: may(w.tax) ? percent(w.tax ?? "") : undefined,
    steps: w.steps.map((s) => ({
      ...Object.fromEntries(measures.map((m) => [m, s[m] || undefined])),
      name: s.name.trim(),
      fee: s.fee.trim(),
      over: s.over || undefined,
      half_kilo: may(s.half_kilo),
    })),
  };
}

type EditorProps = {
  of: Warehouse;
  set: (w: Warehouse) => void;
  drop: () => void;
  wrong: ReturnType<typeof faults>;
};

/** WarehouseEditor writes what a marketplace takes to keep, pack and send one
 * unit: steps by size and weight, of which the first that a product fits holds. */
export function WarehouseEditor({ of: w, set, drop, wrong }: EditorProps) {
  const put = (i: number, change: Partial<Step>) =>
    set({ ...w, steps: w.steps.map((s, k) => (k === i ? { ...s, ...change } : s)) });
  const cell = (
    i: number,
    label: string,
    value: string | number | undefined,
    none: string,
    set: (v: string) => void,
  ) => (
    <chakra.td>
      <Input
        figures
        h="28px"
        w="100%"
        px="1"
        aria-label={`${label} of step ${i + 1}`}
        placeholder={none}
        value={value || ""}
        onChange={(e) => set(e.target.value)}
      />
    </chakra.td>
  );
  const count = (i: number, key: (typeof measures)[number] | "over", label: string, none = "any") =>
    cell(i, label, w.steps[i][key], none, (v) => /^\d*$/.test(v) && put(i, { [key]: Number(v) || undefined }));
  const amount = (i: number, key: "fee" | "half_kilo", label: string) =>
    cell(i, label, w.steps[i][key], "none", (v) => put(i, { [key]: v }));
  return (
    <chakra.fieldset borderTopWidth="1px" borderColor="hair" py="2" aria-label="The warehouse's fees">
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap" pb="2">
        <Input
          w="160px"
          h="28px"
          aria-label="Name of the warehouse's fee"
          value={w.name}
          onChange={(e) => set({ ...w, name: e.target.value })}
        />
        <Quiet>where its warehouse keeps and sends</Quiet>
        <chakra.div flex="1" />
        <Button type="button" size="small" look="plain" aria-label="Without the warehouse's fees" onClick={drop}>
          ×
        </Button>
      </chakra.div>
      <chakra.table w="100%" style={{ tableLayout: "fixed", borderSpacing: "3px", borderCollapse: "separate" }}>
        <thead>
          <tr>
            <chakra.th w="17%" />
            <Head>longest</Head>
            <Head>median</Head>
            <Head>shortest</Head>
            <Head>girth</Head>
            <Head>grams</Head>
            <Head>fee</Head>
            <Head>covers g</Head>
            <Head>per ½ kg</Head>
            <chakra.th w="26px" />
          </tr>
        </thead>
        <tbody>
          {w.steps.map((s, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a step's name is being typed
            <Fragment key={i}>
              <tr>
                <td>
                  <Input
                    h="28px"
                    w="100%"
                    px="1"
                    aria-label={`Name of step ${i + 1}`}
                    value={s.name}
                    onChange={(e) => put(i, { name: e.target.value })}
                  />
                </td>
                {count(i, "longest", "Longest side")}
                {count(i, "median", "Median side")}
                {count(i, "shortest", "Shortest side")}
                {count(i, "girth", "Girth")}
                {count(i, "weight", "Grams")}
                {amount(i, "fee", "Fee")}
                {count(i, "over", "Grams covered", "0")}
                {amount(i, "half_kilo", "Per half kilo")}
                <td>
                  {w.steps.length > 1 && (
                    <Button
                      type="button"
                      size="small"
                      look="plain"
                      px="1"
                      aria-label={`Without step ${i + 1}`}
                      onClick={() => set({ ...w, steps: w.steps.filter((_, k) => k !== i) })}
                    >
                      ×
                    </Button>
                  )}
                </td>
              </tr>
              {wrong.of(`warehouse.steps[${i}]`) && (
                <tr>
                  <td colSpan={10}>
                    <Fault>{wrong.of(`warehouse.steps[${i}]`)}</Fault>
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </chakra.table>
      <Quiet display="block" fontSize="12.5px" py="1">
        Sides in millimetres, all up to and including; the first step that a product fits holds.
      </Quiet>
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <Button
          type="button"
          size="small"
          onClick={() => set({ ...w, steps: [...w.steps, { ...w.steps[w.steps.length - 1], name: "" }] })}
        >
          Another step
        </Button>
        <chakra.label display="inline-flex" gap="1.5" alignItems="center">
          cubic mm to a gram of volume weight
          <Input
            figures
            h="28px"
            w="70px"
            inputMode="numeric"
            placeholder="none"
            value={w.divisor || ""}
            onChange={(e) =>
              /^\d*$/.test(e.target.value) && set({ ...w, divisor: Number(e.target.value) || undefined })
            }
          />
        </chakra.label>
        <chakra.label display="inline-flex" gap="1.5" alignItems="center">
          tax on it
          <Input
            figures
            h="28px"
            w="70px"
            placeholder="none"
            value={w.tax ?? ""}
            onChange={(e) => set({ ...w, tax: e.target.value })}
          />
        </chakra.label>
      </chakra.div>
      <Fault>{!wrong.of("warehouse.steps") && wrong.of("warehouse")}</Fault>
    </chakra.fieldset>
  );
}
