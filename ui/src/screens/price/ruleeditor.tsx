import { chakra } from "@chakra-ui/react";
import { type ReactNode, useDeferredValue, useMemo, useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useCategories, useDo, useLines, usePreview, useSites, useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Input, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { Fault, faults } from "../../parts/field";
import { useKeys } from "../../parts/keys";
import { PreviewPane } from "./preview";
import { type Condition, type Form, fresh, isAmount, kinds, type NamedRule, toForm, toRule } from "./ruleform";

type Site = Schemas["SiteView"];
type EditorProps = { site: Site; rule: NamedRule; last: boolean; onClose: () => void };

/** RuleEditor is a rule written as the sentence it is, beside what it would do. */
export function RuleEditor({ site, rule, last, onClose }: EditorProps) {
  const [form, setForm] = useState<Form>(() => toForm(rule, site.currency));
  const body = useMemo(() => toRule(form, last), [form, last]);
  const asked = useDeferredValue(useMemo(() => ({ ...body, name: body.name || "new" }), [body]));
  const preview = usePreview(site.id, asked);
  const keep = useDo(
    (r: NamedRule) => read(api.POST("/api/sites/{id}/rules", { params: { path: { id: site.id } }, body: r })),
    "rules",
    "listings",
    "plan",
  );
  const drop = useDo(
    () => read(api.DELETE("/api/rules/{id}", { params: { path: { id: rule.id } } })),
    "rules",
    "listings",
    "plan",
  );
  const wrong = faults(keep.error ?? preview.error);
  const set = (change: Partial<Form>) => {
    keep.reset();
    setForm((f) => ({ ...f, ...change }));
  };
  useKeys({ Escape: onClose });
  return (
    <chakra.div
      display="grid"
      gridTemplateColumns={{ base: "minmax(0, 1fr) 390px", xl: "minmax(0, 1fr) 470px" }}
      gap="6"
      flex="1"
      minH="0"
      pt="2"
    >
      <chakra.form
        aria-label="Price rule"
        overflowY="auto"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate(body, { onSuccess: onClose });
        }}
      >
        <Line label="Name" fault={wrong.of("name")}>
          <Input
            aria-label="Name of the rule"
            w="320px"
            disabled={last}
            placeholder="Mugs, one penny under"
            value={form.name}
            onChange={(e) => set({ name: e.target.value })}
          />
        </Line>
        {last ? (
          <Line label="For">all products that no other rule fits</Line>
        ) : (
          <ForWhich form={form} set={set} site={site} fault={wrong.of("fits")} />
        )}
        <Wish form={form} set={set} currency={site.currency} wrong={wrong} />
        <chakra.div display="flex" gap="3" alignItems="center" py="4">
          <Button look="main" type="submit" disabled={keep.isPending || !!preview.error}>
            Keep this rule
          </Button>
          <Button type="button" onClick={onClose}>
            Leave it <Key>Esc</Key>
          </Button>
          <chakra.div flex="1" />
          {rule.id !== 0 && <CopyTo site={site} rule={rule.id} />}
          {rule.id !== 0 && !last && (
            <Button
              type="button"
              disabled={drop.isPending}
              onClick={() => drop.mutate(undefined, { onSuccess: onClose })}
            >
              Drop this rule
            </Button>
          )}
        </chakra.div>
        <Quiet>Keeping it changes no marketplace: what is live gets a plan that you send.</Quiet>
        <Trouble error={wrong.rest ?? drop.error} />
      </chakra.form>
      <PreviewPane site={site.id} preview={preview.data} busy={preview.isFetching} wrong={!!preview.error} />
    </chakra.div>
  );
}

/** CopyTo begins the same rule on another site. Its figures are taken as they
 * are, so they want a look where the currency is another. */
function CopyTo({ site, rule }: { site: Site; rule: number }) {
  const a = useAddress();
  const { data: sites } = useSites();
  const others = sites?.filter((s) => s.id !== site.id) ?? [];
  if (others.length === 0) return null;
  return (
    <Select
      aria-label="The same on another site"
      value=""
      onChange={(e) => a.put({ site: e.target.value, rule: "new", from: `${site.id}:${rule}` })}
    >
      <option value="">the same on…</option>
      {others.map((s) => (
        <option key={s.id} value={s.id}>
          {s.name}
        </option>
      ))}
    </Select>
  );
}

/** OwnRule is the rule of one listing alone, in place of the site's list. */
export function OwnRule({ site, listing, onClose }: { site: Site; listing: number; onClose: () => void }) {
  const { data: x, error } = useLines(listing);
  const begin = x ? { ...fresh(x.currency), rule: x.own_rule ?? fresh(x.currency).rule } : null;
  return (
    <>
      <Trouble error={error} />
      {x && begin && <OwnEditor site={site} listing={listing} x={x} begin={begin} onClose={onClose} />}
    </>
  );
}

type OwnProps = { site: Site; listing: number; x: Schemas["Explained"]; begin: NamedRule; onClose: () => void };

function OwnEditor({ listing, x, begin, onClose }: OwnProps) {
  const [form, setForm] = useState(() => toForm(begin, x.currency));
  const keep = useDo(
    (rule: Schemas["Rule"] | undefined) =>
      read(api.PUT("/api/listings/{id}/rule", { params: { path: { id: listing } }, body: { rule } })),
    "listings",
    "rules",
    "plan",
  );
  const wrong = faults(keep.error);
  useKeys({ Escape: onClose });
  return (
    <chakra.form
      aria-label="Its own price rule"
      maxW="860px"
      pt="3"
      overflowY="auto"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(toRule(form, true).rule, { onSuccess: onClose });
      }}
    >
      <chakra.h2 fontWeight="700" fontSize="15.5px">
        A rule for {x.title} alone
      </chakra.h2>
      <Quiet>On {x.site}, in place of the rules for all.</Quiet>
      <Wish form={form} set={(c) => setForm((f) => ({ ...f, ...c }))} currency={x.currency} wrong={wrong} />
      <chakra.div display="flex" gap="3" alignItems="center" py="4">
        <Button look="main" type="submit" disabled={keep.isPending}>
          Keep this rule
        </Button>
        <Button type="button" onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
        {x.own_rule && (
          <Button type="button" onClick={() => keep.mutate(undefined, { onSuccess: onClose })}>
            Let the rules for all hold again
          </Button>
        )}
      </chakra.div>
      <Trouble error={wrong.rest} />
    </chakra.form>
  );
}

function Line({ label, fault, children }: { label: string; fault?: string; children: ReactNode }) {
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

type PartProps = { form: Form; set: (change: Partial<Form>) => void };

/** ForWhich says which products a rule is for; what is left empty asks nothing. */
function ForWhich({ form, set, site, fault }: PartProps & { site: Site; fault?: string }) {
  const { data: categories } = useCategories(site.id);
  const { data: sources } = useSources();
  const text = (
    name: "suppliers" | "brands" | "skus" | "costFrom" | "costTo" | "weightFrom" | "weightTo",
    label: string,
    w: string,
    hint: string,
    suggestions?: string,
  ) => (
    <Input
      aria-label={label}
      w={w}
      list={suggestions}
      figures={name.startsWith("cost") || name.startsWith("weight")}
      placeholder={hint}
      value={form[name]}
      onChange={(e) => (!name.startsWith("weight") || /^\d*$/.test(e.target.value)) && set({ [name]: e.target.value })}
    />
  );
  return (
    <Line label="For" fault={fault}>
      <chakra.div
        display="grid"
        gridTemplateColumns="auto minmax(0, 1fr)"
        columnGap="3"
        rowGap="1.5"
        alignItems="center"
        w="100%"
      >
        <span>brand</span>
        {text("brands", "Brands", "100%", "any; several parted by commas")}
        <span>supplier</span>
        {text("suppliers", "Suppliers", "100%", "any", "suppliers")}
        <datalist id="suppliers">
          {[...new Set(sources?.map((s) => s.supplier))].map((s) => (
            <option key={s}>{s}</option>
          ))}
        </datalist>
        <span>category</span>
        <chakra.div display="flex" gap="2" flexWrap="wrap" alignItems="center">
          {form.categories.map((c) => (
            <Button
              key={c}
              type="button"
              size="small"
              aria-label={`Not ${categories?.find((x) => x.ref === c)?.name ?? c}`}
              onClick={() => set({ categories: form.categories.filter((x) => x !== c) })}
            >
              {categories?.find((x) => x.ref === c)?.name ?? c} ×
            </Button>
          ))}
          <Select
            aria-label="Add a category"
            value=""
            onChange={(e) => e.target.value && set({ categories: [...form.categories, e.target.value] })}
          >
            <option value="">{form.categories.length ? "or another…" : "any"}</option>
            {categories
              ?.filter((c) => !form.categories.includes(c.ref))
              .map((c) => (
                <option key={c.ref} value={c.ref}>
                  {c.name}
                </option>
              ))}
          </Select>
        </chakra.div>
        <span>landed cost</span>
        <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
          from {text("costFrom", "Landed cost from", "84px", "any")} to{" "}
          {text("costTo", "Landed cost to", "84px", "any")} {site.currency}
          <chakra.span w="4" />
          weight {text("weightFrom", "Weight from", "70px", "any")} to {text("weightTo", "Weight to", "70px", "any")} g
        </chakra.div>
        <span>picked</span>
        {text("skus", "SKUs", "100%", "any; SKUs, to pick products by hand")}
      </chakra.div>
    </Line>
  );
}

/** Wish is what a rule wants of a price. */
function Wish({ form, set, currency, wrong }: PartProps & { currency: string; wrong: ReturnType<typeof faults> }) {
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
