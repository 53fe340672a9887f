import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo, useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useCategories, useDo, usePreview, useSites, useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Input, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { faults } from "../../parts/field";
import { Beside } from "./beside";
import { PreviewPane } from "./preview";
import { type Form, type NamedRule, toForm, toRule } from "./ruleform";
import { Line, type PartProps, Wish } from "./wish";

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
  return (
    <Beside
      label="Price rule"
      onKeep={() => keep.mutate(body, { onSuccess: onClose })}
      onClose={onClose}
      would={<PreviewPane site={site.id} preview={preview.data} busy={preview.isFetching} wrong={!!preview.error} />}
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
    </Beside>
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
        </chakra.div>
        <span>weight</span>
        <chakra.div display="flex" gap="2" alignItems="center">
          from {text("weightFrom", "Weight from", "84px", "any")} to {text("weightTo", "Weight to", "84px", "any")} g
        </chakra.div>
        <span>picked</span>
        {text("skus", "SKUs", "100%", "any; SKUs, to pick products by hand")}
      </chakra.div>
    </Line>
  );
}
