import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Button, Input, Quiet, Select } from "../../parts/controls";
import { Fault, type faults } from "../../parts/field";
import { type Condition, type Form, isAmount, kinds } from "./ruleform";

export type PartProps = { form: Form; set: (change: Partial<Form>) => void };

/** Wish is what a rule wants of a price. */
export function Wish({
  form,
  set,
  currency,
  wrong,
}: PartProps & { currency: string; wrong: ReturnType<typeof faults> }) {
  return (
    <>
      <Line label="At least" fault={wrong.of("rule.aims")}>
        <Conditions label="aim" list={form.aims} set={(aims) => set({ aims })} currency={currency} />
      </Line>
      <Line label="Rivals" fault={wrong.of("rule.market")}>
        <Select
          aria-label="Stance"
          value={form.stance}
          onChange={(e) => set({ stance: e.target.value as Form["stance"] })}
        >
          <option value="ignore">don't matter</option>
          <option value="below">stand under</option>
          <option value="equal">stand level with</option>
          <option value="above">stand over</option>
        </Select>
        {form.stance !== "ignore" && (
          <>
            <Select
              aria-label="Against whom"
              value={form.against}
              onChange={(e) => set({ against: e.target.value as Form["against"] })}
            >
              <option value="lowest">the lowest rival</option>
              <option value="lead">the leading rival</option>
            </Select>
            {form.stance !== "equal" && (
              <>
                by
                <Input figures w="76px" aria-label="By" value={form.by} onChange={(e) => set({ by: e.target.value })} />
                {form.by.includes("%") ? "" : currency}
              </>
            )}
            <chakra.label display="flex" gap="1.5" alignItems="center">
              <input type="checkbox" checked={form.mayExceed} onChange={(e) => set({ mayExceed: e.target.checked })} />{" "}
              even above what is aimed at
            </chakra.label>
          </>
        )}
      </Line>
      <Line label="Never under" fault={wrong.of("rule.keep")}>
        <Conditions label="keep" list={form.keep} set={(keep) => set({ keep })} currency={currency} none />
      </Line>
      <Line label="Between" fault={wrong.of("rule.least", "rule.most")}>
        <Input
          figures
          w="90px"
          aria-label="Least price"
          placeholder="any"
          value={form.least}
          onChange={(e) => set({ least: e.target.value })}
        />
        and
        <Input
          figures
          w="90px"
          aria-label="Most"
          placeholder="any"
          value={form.most}
          onChange={(e) => set({ most: e.target.value })}
        />
        {currency}
      </Line>
      <Line label="Ending in" fault={wrong.of("rule.endings")}>
        <input
          type="checkbox"
          aria-label="Only some endings"
          checked={form.ends}
          onChange={(e) => set({ ends: e.target.checked })}
        />
        <Input
          figures
          w="116px"
          aria-label="Endings"
          disabled={!form.ends}
          value={form.at}
          onChange={(e) => set({ at: e.target.value })}
        />
        of every
        <Input
          figures
          w="76px"
          aria-label="Of every"
          disabled={!form.ends}
          value={form.every}
          onChange={(e) => set({ every: e.target.value })}
        />
        <Select
          aria-label="Which way"
          disabled={!form.ends}
          value={form.way}
          onChange={(e) => set({ way: e.target.value as Form["way"] })}
        >
          <option value="up">the next one up</option>
          <option value="down">the next one down</option>
          <option value="nearest">the nearest</option>
        </Select>
      </Line>
    </>
  );
}

type ConditionsProps = {
  label: string;
  list: Condition[];
  set: (l: Condition[]) => void;
  currency: string;
  none?: boolean;
};

/** Conditions are several at once, all of which must hold. */
function Conditions({ label, list, set, currency, none }: ConditionsProps) {
  const put = (i: number, c: Partial<Condition>) => set(list.map((x, k) => (k === i ? { ...x, ...c } : x)));
  const unused = kinds.find(([k]) => !list.some((c) => c.kind === k));
  return (
    <>
      {list.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no name but their place
        <chakra.span key={i} display="inline-flex" gap="1.5" alignItems="center">
          {i > 0 && "and"}
          <Input
            figures
            w="76px"
            aria-label={`Figure of ${label} ${i + 1}`}
            value={c.value}
            onChange={(e) => put(i, { value: e.target.value })}
          />
          {isAmount(c.kind) && currency}
          <Select
            aria-label={`Kind of ${label} ${i + 1}`}
            value={c.kind}
            onChange={(e) => {
              const kind = e.target.value as Condition["kind"];
              put(i, { kind, value: kinds.find((k) => k[0] === kind)?.[2] ?? "", plus: undefined });
            }}
          >
            {kinds.map(([k, words]) => (
              <option key={k} value={k}>
                {words}
              </option>
            ))}
          </Select>
          {c.kind === "markup" && (
            <>
              plus
              <Input
                figures
                w="70px"
                aria-label={`Plus of ${label} ${i + 1}`}
                placeholder="0.00"
                value={c.plus ?? ""}
                onChange={(e) => put(i, { plus: e.target.value })}
              />
            </>
          )}
          <Button
            type="button"
            size="small"
            look="plain"
            aria-label={`Without ${label} ${i + 1}`}
            onClick={() => set(list.filter((_, k) => k !== i))}
          >
            ×
          </Button>
        </chakra.span>
      ))}
      {list.length === 0 && (
        <Quiet>{none ? "nothing: losses are allowed" : "nothing: the market gives the price"}</Quiet>
      )}
      {unused && (
        <Button type="button" size="small" onClick={() => set([...list, { kind: unused[0], value: unused[2] }])}>
          {list.length ? "and…" : "Add one"}
        </Button>
      )}
    </>
  );
}

/** Line is one clause of a rule, behind the word that begins it. */
export function Line({ label, fault, children }: { label: string; fault?: string; children: ReactNode }) {
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
        <Fault>{fault}</Fault>
      </div>
    </chakra.div>
  );
}
