import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useFieldArray, useFormContext, useWatch } from "react-hook-form";
import { Button, Input, Quiet, Select } from "../../parts/controls";
import { Wrong } from "../../parts/form";
import { type Condition, isAmount, kinds, type RuleText } from "./ruleform";

/** Wish is what a rule wants of a price. */
export function Wish({ currency }: { currency: string }) {
  const { register } = useFormContext<RuleText>();
  const [stance, by, ends] = useWatch<RuleText, ["stance", "by", "ends"]>({ name: ["stance", "by", "ends"] });
  return (
    <>
      <Clause label={stance === "ignore" ? "At least" : "Aim at"} faults={["rule.aims"]}>
        <Conditions name="aims" label="aim" currency={currency} />
      </Clause>
      <Clause label="Rivals" faults={["rule.market"]}>
        <Select aria-label="Stance" {...register("stance")}>
          <option value="ignore">don't matter</option>
          <option value="below">stand under</option>
          <option value="equal">stand level with</option>
          <option value="above">stand over</option>
        </Select>
        {stance !== "ignore" && (
          <>
            <Select aria-label="Against whom" {...register("against")}>
              <option value="lowest">the lowest rival</option>
              <option value="lead">the leading rival</option>
            </Select>
            {stance !== "equal" && (
              <>
                by
                <Input figures w="76px" aria-label="By" {...register("by")} />
                {by.includes("%") ? "" : currency}
              </>
            )}
            <chakra.label display="flex" gap="1.5" alignItems="center" minH="24px">
              <input type="checkbox" {...register("mayExceed")} /> even above what is aimed at
            </chakra.label>
            <Quiet>Where rivals ask less, the aim gives way, down to what stands under “never under”.</Quiet>
          </>
        )}
      </Clause>
      <Clause label="Never under" faults={["rule.keep"]}>
        <Conditions name="keep" label="keep" currency={currency} none />
      </Clause>
      <Clause label="Between" faults={["rule.least", "rule.most"]}>
        <Input figures w="90px" aria-label="Least price" placeholder="any" {...register("least")} />
        and
        <Input figures w="90px" aria-label="Most" placeholder="any" {...register("most")} />
        {currency}
      </Clause>
      <Clause label="Ending in" faults={["rule.endings"]}>
        <chakra.label display="inline-flex" alignItems="center" justifyContent="center" minW="24px" minH="24px">
          <input type="checkbox" aria-label="Only some endings" {...register("ends")} />
        </chakra.label>
        <Input figures w="116px" aria-label="Endings" disabled={!ends} {...register("at")} />
        of every
        <Input figures w="76px" aria-label="Of every" disabled={!ends} {...register("every")} />
        <Select aria-label="Which way" disabled={!ends} {...register("way")}>
          <option value="up">the next one up</option>
          <option value="down">the next one down</option>
          <option value="nearest">the nearest</option>
        </Select>
      </Clause>
    </>
  );
}

type ConditionsProps = { name: "aims" | "keep"; label: string; currency: string; none?: boolean };

/** Conditions are several at once, all of which must hold. */
function Conditions({ name, label, currency, none }: ConditionsProps) {
  const { register, getValues, setValue } = useFormContext<RuleText>();
  const { fields, append, remove } = useFieldArray<RuleText>({ name });
  const list = useWatch<RuleText, typeof name>({ name });
  const unused = kinds.find(([k]) => !list.some((c) => c.kind === k));
  // A figure that was typed stays, whatever it is then of; one that nobody touched is what is usual for the kind.
  const begin = (i: number, kind: Condition["kind"]) => {
    const now = (getValues(`${name}.${i}.value`) ?? "").trim();
    const untouched = now === "" || kinds.some((k) => k[2] === now);
    const usual = kinds.find((k) => k[0] === kind)?.[2] ?? "";
    setValue(`${name}.${i}.value`, untouched ? usual : isAmount(kind) ? now.replace(/\s*%$/, "") : now);
    setValue(`${name}.${i}.plus`, "");
  };
  return (
    <>
      {fields.map((f, i) => {
        const kind = list[i]?.kind ?? "margin";
        return (
          <chakra.span key={f.id} display="inline-flex" gap="1.5" alignItems="center">
            {i > 0 && "and"}
            <Input figures w="76px" aria-label={`Figure of ${label} ${i + 1}`} {...register(`${name}.${i}.value`)} />
            {isAmount(kind) && currency}
            <Select
              aria-label={`Kind of ${label} ${i + 1}`}
              {...register(`${name}.${i}.kind`, { onChange: (e) => begin(i, e.target.value) })}
            >
              {kinds.map(([k, words]) => (
                <option key={k} value={k}>
                  {words}
                </option>
              ))}
            </Select>
            {kind === "markup" && (
              <>
                plus
                <Input
                  figures
                  w="70px"
                  aria-label={`Plus of ${label} ${i + 1}`}
                  placeholder="0.00"
                  {...register(`${name}.${i}.plus`)}
                />
              </>
            )}
            <Button size="small" look="plain" aria-label={`Without ${label} ${i + 1}`} onClick={() => remove(i)}>
              ×
            </Button>
          </chakra.span>
        );
      })}
      {fields.length === 0 && (
        <Quiet>{none ? "nothing: losses are allowed" : "nothing: the market gives the price"}</Quiet>
      )}
      {unused && (
        <Button size="small" onClick={() => append({ kind: unused[0], value: unused[2], plus: "" })}>
          {fields.length ? "and…" : "Add one"}
        </Button>
      )}
    </>
  );
}

type ClauseProps = { label: string; faults?: string[]; children: ReactNode };

/** Clause is one part of a rule, behind the word that begins it. */
export function Clause({ label, faults = [], children }: ClauseProps) {
  return (
    <chakra.div
      display="grid"
      gridTemplateColumns="86px minmax(0, 1fr)"
      gap="4"
      py="2"
      borderBottomWidth="1px"
      borderColor="hair"
      alignItems="baseline"
    >
      <Quiet>{label}</Quiet>
      <div>
        <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap" minH="32px">
          {children}
        </chakra.div>
        <Wrong of={faults} />
      </div>
    </chakra.div>
  );
}
