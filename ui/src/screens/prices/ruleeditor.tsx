import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo } from "react";
import { useFormContext, useWatch } from "react-hook-form";
import { ifMatch, type Schemas } from "../../api/client";
import { saveRule, useDeleteRule } from "../../api/operations";
import { useCategories, useSieves, useSites, useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Beside } from "../../parts/beside";
import { Button, Input, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { useKeep, WholeInput } from "../../parts/form";
import { keepAnd, PreviewPane } from "./preview";
import { usePreview } from "./queries";
import { Replay } from "./replay";
import { type NamedRule, type RuleText, toRule, toText } from "./ruleform";
import { Clause, Wish } from "./wish";

type Site = Schemas["SiteView"];
type EditorProps = { site: Site; rule: NamedRule; last: boolean; onClose: () => void };

/** RuleEditor is a rule written as the sentence it is, beside what it would do. */
export function RuleEditor({ site, rule, last, onClose }: EditorProps) {
  const keep = useKeep<RuleText, unknown>({
    values: toText(rule, site.currency),
    version: rule.version,
    written: (now) => toText(now as NamedRule, site.currency),
    keep: (text, version) => saveRule({ path: { id: site.id }, header: ifMatch(version), body: toRule(text, last) }),
    done: onClose,
  });
  const text = useWatch({ control: keep.form.control }) as RuleText;
  const asked = useDeferredValue(
    useMemo(() => {
      const rule = toRule(text, last);
      return { ...rule, name: rule.name || "new" };
    }, [text, last]),
  );
  const preview = usePreview(site.id, asked);
  const drop = useDeleteRule(() => ({ path: { id: rule.id } }));
  return (
    <Beside
      form={keep.form}
      label="Price rule"
      error={keep.error ?? preview.error}
      onKeep={keep.submit}
      onClose={onClose}
      would={
        <PreviewPane site={site.id} preview={preview.data} busy={preview.isFetching} wrong={!!preview.error}>
          <Replay site={site.id} rule={asked} wrong={!!preview.error} />
        </PreviewPane>
      }
    >
      <Clause label="Name" faults={["name"]}>
        <Input
          aria-label="Name of the rule"
          w="320px"
          readOnly={last}
          placeholder="Mugs, one penny under"
          {...keep.form.register("name")}
        />
      </Clause>
      {last ? <Clause label="For">all products that no other rule fits</Clause> : <ForWhich site={site} />}
      <Wish currency={site.currency} />
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="4">
        <Button look="main" type="submit" disabled={keep.busy || !!preview.error}>
          {keepAnd("Keep this rule", preview.data?.at_once)}
        </Button>
        <Button onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
        <chakra.div flex="1" />
        {rule.id !== 0 && <CopyTo site={site} rule={rule.id} />}
        {rule.id !== 0 && !last && (
          <Button disabled={drop.isPending} onClick={() => drop.mutate(undefined, { onSuccess: onClose })}>
            Drop this rule
          </Button>
        )}
      </chakra.div>
      {!preview.data?.at_once && <Quiet>What is on sale gets a plan, which waits until you send it.</Quiet>}
      <Trouble error={drop.error} />
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
function ForWhich({ site }: { site: Site }) {
  const { register } = useFormContext<RuleText>();
  const { data: sources } = useSources();
  const cost = (name: "costFrom" | "costTo", label: string) => (
    <Input figures aria-label={label} w="84px" placeholder="any" {...register(name)} />
  );
  const grams = (name: "weightFrom" | "weightTo", label: string) => (
    <WholeInput name={name} aria-label={label} w="84px" placeholder="any" empty />
  );
  return (
    <Clause label="For" faults={["fits"]}>
      <chakra.div
        display="grid"
        gridTemplateColumns="auto minmax(0, 1fr)"
        columnGap="3"
        rowGap="1.5"
        alignItems="center"
        w="100%"
      >
        <span>brand</span>
        <Input aria-label="Brands" w="100%" placeholder="any; several parted by commas" {...register("brands")} />
        <span>supplier</span>
        <Input aria-label="Suppliers" w="100%" placeholder="any" list="suppliers" {...register("suppliers")} />
        <datalist id="suppliers">
          {[...new Set(sources?.map((s) => s.supplier))].map((s) => (
            <option key={s}>{s}</option>
          ))}
        </datalist>
        <span>category</span>
        <Categories site={site} />
        <span>landed cost</span>
        <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
          from {cost("costFrom", "Landed cost from")} to {cost("costTo", "Landed cost to")} {site.currency}
        </chakra.div>
        <span>weight</span>
        <chakra.div display="flex" gap="2" alignItems="center">
          from {grams("weightFrom", "Weight from")} to {grams("weightTo", "Weight to")} g
        </chakra.div>
        <span>sieve</span>
        <Sieve />
        <span>picked</span>
        <Input aria-label="SKUs" w="100%" placeholder="any; SKUs, to pick products by hand" {...register("skus")} />
      </chakra.div>
    </Clause>
  );
}

/** Sieve is a kept one of Weigh's; one that looks at prices can't be for a rule. */
function Sieve() {
  const { register } = useFormContext<RuleText>();
  const { data } = useSieves();
  const picked = useWatch<RuleText, "sieve">({ name: "sieve" });
  return (
    // what is picked stands there once the sieves are read
    <Select key={data ? "read" : "unread"} aria-label="Sieve" w="280px" {...register("sieve")}>
      <option value="">any</option>
      {data?.sieves.map((s) => (
        <option key={s.id} value={s.id} disabled={!s.facts && String(s.id) !== picked}>
          {s.name}
          {s.facts ? "" : " (looks at prices)"}
        </option>
      ))}
    </Select>
  );
}

/** Categories are picked one by one; none is any. */
function Categories({ site }: { site: Site }) {
  const { data } = useCategories(site.id);
  const { setValue } = useFormContext<RuleText>();
  const picked = useWatch<RuleText, "categories">({ name: "categories" });
  const name = (ref: string) => data?.find((c) => c.ref === ref)?.name ?? ref;
  const set = (refs: string[]) => setValue("categories", refs, { shouldDirty: true });
  return (
    <chakra.div display="flex" gap="2" flexWrap="wrap" alignItems="center">
      {picked.map((ref) => (
        <Button
          key={ref}
          size="small"
          aria-label={`Not ${name(ref)}`}
          onClick={() => set(picked.filter((x) => x !== ref))}
        >
          {name(ref)} ×
        </Button>
      ))}
      <Select aria-label="Add a category" value="" onChange={(e) => e.target.value && set([...picked, e.target.value])}>
        <option value="">{picked.length ? "or another…" : "any"}</option>
        {data
          ?.filter((c) => !picked.includes(c.ref))
          .map((c) => (
            <option key={c.ref} value={c.ref}>
              {c.name}
            </option>
          ))}
      </Select>
    </chakra.div>
  );
}
