import { chakra } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { api, Problem, read, type Schemas } from "../../api/client";
import { useDo, useRule } from "../../api/queries";
import { Button, Input, Quiet, Select, Trouble } from "../../parts/controls";

type Site = Schemas["SiteView"];
type RuleBody = Schemas["Rule"];
type Kind = RuleBody["aims"][number]["kind"];

type Form = {
  kind: Kind;
  value: string;
  plus: string;
  keep: string;
  ends: boolean;
  every: string;
  at: string;
  way: "up" | "down" | "nearest";
  least: string;
  most: string;
};

const kinds: [Kind, string, string][] = [
  ["margin", "a margin of at least", "18%"],
  ["profit", "a profit of at least", "4.00"],
  ["return", "a return on what is spent of at least", "25%"],
  ["markup", "a markup on the landed cost of at least", "40%"],
];

function toForm(r: RuleBody): Form {
  const aim = r.aims[0];
  const keep = (r.keep ?? []).find((k) => k.kind === "profit");
  return {
    kind: aim?.kind ?? "margin",
    value: aim?.value ?? "",
    plus: aim?.plus ?? "",
    keep: keep?.value ?? "",
    ends: !!r.endings,
    every: r.endings?.every ?? "1.00",
    at: r.endings?.at.join(", ") ?? "0.49, 0.99",
    way: r.endings?.way ?? "up",
    least: r.least ?? "",
    most: r.most ?? "",
  };
}

const percent = (s: string) => (/%\s*$/.test(s) || s === "" ? s.replace(/\s/g, "") : `${s.trim()}%`);

function toRule(f: Form): RuleBody {
  const value = f.kind === "profit" ? f.value.trim() : percent(f.value);
  return {
    aims: [{ kind: f.kind, value, plus: f.kind === "markup" && f.plus ? f.plus.trim() : undefined }],
    keep: f.keep.trim() ? [{ kind: "profit", value: f.keep.trim() }] : [],
    least: f.least.trim() || undefined,
    most: f.most.trim() || undefined,
    endings: f.ends
      ? {
          every: f.every.trim(),
          at: f.at
            .split(/[,;\s]+/)
            .map((s) => s.trim())
            .filter(Boolean),
          way: f.way,
        }
      : undefined,
  };
}

/** Rule is the price rule of a site, written as the sentence it is. */
export function Rule({ site }: { site: Site }) {
  const { data, error } = useRule(site.id);
  const [form, setForm] = useState<Form | null>(null);
  useEffect(() => {
    if (data) setForm((old) => old ?? toForm(data));
  }, [data]);
  const keep = useDo(
    (body: RuleBody) => read(api.PUT("/api/sites/{id}/rule", { params: { path: { id: site.id } }, body })),
    "rules",
    "listings",
    "plan",
  );
  if (!form) return <Trouble error={error} />;
  const set = (change: Partial<Form>) => {
    keep.reset();
    setForm({ ...form, ...change });
  };
  const wrong = keep.error instanceof Problem ? keep.error.fields : {};
  const bad = (...names: string[]) => Object.entries(wrong).find(([k]) => names.some((n) => k.startsWith(n)))?.[1];
  const amount = (
    name: "keep" | "least" | "most" | "plus" | "every",
    label: string,
    w: string,
    fields: string[],
    hint = "none",
  ) => (
    <Input
      figures
      w={w}
      aria-label={label}
      value={form[name]}
      placeholder={hint}
      aria-invalid={!!bad(...fields)}
      onChange={(e) => set({ [name]: e.target.value })}
    />
  );
  const line = (label: string, body: React.ReactNode, trouble?: string) => (
    <chakra.div
      display="grid"
      gridTemplateColumns="110px 1fr"
      gap="4"
      py="3"
      borderBottomWidth="1px"
      borderColor="hair"
      alignItems="center"
    >
      <Quiet>{label}</Quiet>
      <div>
        <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
          {body}
        </chakra.div>
        {trouble && (
          <chakra.div role="alert" color="loss" mt="1">
            {trouble}
          </chakra.div>
        )}
      </div>
    </chakra.div>
  );
  return (
    <chakra.form
      maxW="860px"
      pt="2"
      overflowY="auto"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(toRule(form));
      }}
    >
      {line(
        "Every price",
        <>
          aims at
          <Select
            aria-label="What to aim at"
            value={form.kind}
            onChange={(e) =>
              set({
                kind: e.target.value as Kind,
                value: kinds.find((k) => k[0] === e.target.value)?.[2] ?? "",
                plus: "",
              })
            }
          >
            {kinds.map(([k, words]) => (
              <option key={k} value={k}>
                {words}
              </option>
            ))}
          </Select>
          <Input
            figures
            w="90px"
            aria-label="How much"
            value={form.value}
            aria-invalid={!!bad("aims")}
            onChange={(e) => set({ value: e.target.value })}
          />
          {form.kind === "profit" && site.currency}
          {form.kind === "markup" && (
            <>
              and {amount("plus", "Plus an amount", "90px", ["aims"], "0.00")} {site.currency} more
            </>
          )}
        </>,
        bad("aims"),
      )}
      {line(
        "and always",
        <>
          leaves at least {amount("keep", "Least profit", "90px", ["keep"])} {site.currency}, is not under{" "}
          {amount("least", "Least price", "90px", ["least"])} and not over {amount("most", "Most", "90px", ["most"])}{" "}
          {site.currency}
        </>,
        bad("keep", "least", "most"),
      )}
      {line(
        "and ends",
        <>
          <chakra.label display="flex" gap="1.5" alignItems="center">
            <input type="checkbox" checked={form.ends} onChange={(e) => set({ ends: e.target.checked })} /> in
          </chakra.label>
          <Input
            figures
            w="130px"
            aria-label="Endings"
            disabled={!form.ends}
            value={form.at}
            aria-invalid={!!bad("endings.at")}
            onChange={(e) => set({ at: e.target.value })}
          />
          of every {amount("every", "Of every", "90px", ["endings.every"])} {site.currency}, going to
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
        </>,
        bad("endings"),
      )}
      <chakra.div display="flex" gap="3" alignItems="center" pt="4">
        <Button look="main" type="submit" disabled={keep.isPending}>
          Keep this rule
        </Button>
        <Quiet>
          {keep.isSuccess
            ? "Kept. Prices are worked out anew; listings that are live get a plan under Watch."
            : "Keeping it changes no marketplace: what is live gets a plan that you send."}
        </Quiet>
      </chakra.div>
      {keep.error && Object.keys(wrong).length === 0 && <Trouble error={keep.error} />}
    </chakra.form>
  );
}
