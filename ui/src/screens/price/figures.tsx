import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { useCategories } from "../../api/queries";
import { Input, Quiet, Select } from "../../parts/controls";
import { Fault, Field, type faults } from "../../parts/field";
import { money } from "../../parts/money";
import type { Answer, Ask } from "./bench";

type Site = Schemas["SiteView"];
type FiguresProps = {
  site: Site;
  ask: Ask;
  answer?: Answer;
  set: (change: Partial<Ask>) => void;
  wrong: ReturnType<typeof faults>;
};

/** Figures are what a price is reckoned from. In grey stands what holds; what is typed takes its place. */
export function Figures({ site, ask, answer: x, set, wrong }: FiguresProps) {
  const { data: categories } = useCategories(site.id);
  const f = x?.figures;
  const cur = f?.currency ?? site.currency;
  const cost = (change: Partial<NonNullable<Ask["cost"]>>) => set({ cost: { ...ask.cost, ...change } });
  type Text = "unit" | "charge" | "free_from" | "duty" | "fx" | "cushion" | "handling";
  const text = (name: Text, label: string, unit: string) => (
    <Field
      label={label}
      unit={unit}
      value={ask.cost?.[name] ?? ""}
      hint={f?.[name] || "none"}
      fault={wrong.of(`cost.${name}`)}
      set={(v) => cost({ [name]: v || undefined })}
    />
  );
  const units = (name: "units_bought" | "units_listed", label: string) => (
    <chakra.span display="inline-flex" gap="1.5" alignItems="center">
      {label}
      <Input
        figures
        h="28px"
        w="52px"
        aria-label={label}
        value={ask.cost?.[name] ?? ""}
        placeholder={String(f?.[name] ?? 1)}
        onChange={(e) => /^\d*$/.test(e.target.value) && cost({ [name]: Number(e.target.value) || undefined })}
      />
    </chakra.span>
  );
  return (
    <>
      <Part title="What it costs">
        <Field
          label="one item, in"
          value={ask.cost?.currency ?? ""}
          hint={cur}
          w="56px"
          fault={wrong.of("cost.currency")}
          set={(v) => cost({ currency: v.toUpperCase() || undefined })}
        />
        {text("unit", "one item of the supplier's", cur)}
        <chakra.div display="flex" gap="3" justifyContent="flex-end" pr="42px" py="0.5">
          {units("units_bought", "units in it")} {units("units_listed", "listed")}
        </chakra.div>
        {text("charge", "its delivery", cur)}
        {text("free_from", "free from", cur)}
        {text("duty", "duty", "%")}
        {cur !== site.currency && text("fx", `${site.currency} for 1 ${cur}`, "")}
        {cur !== site.currency && text("cushion", "cushion for the rate", "%")}
        {text("handling", "handling", site.currency)}
        {x && !x.why && (
          <chakra.dl aria-label="How the landed cost came about" pt="2" fontSize="12.5px">
            {x.cost.map((c, i) => (
              <chakra.div key={c.name} display="flex" gap="3" fontWeight={i === x.cost.length - 1 ? "700" : "400"}>
                <chakra.dt flex="1">{c.name}</chakra.dt>
                <chakra.dd fontFamily="mono">{c.amount}</chakra.dd>
              </chakra.div>
            ))}
          </chakra.dl>
        )}
      </Part>
      <Part title={`How it is sold on ${site.name}`}>
        <Field
          label="buyer pays for delivery"
          unit={site.currency}
          value={ask.charged ?? ""}
          hint={x ? money(x.charged, site.currency) : ""}
          fault={wrong.of("charged")}
          set={(v) => set({ charged: v || undefined })}
        />
        <Field
          label="sending it costs us"
          unit={site.currency}
          value={ask.outbound ?? ""}
          hint={x ? money(x.outbound, site.currency) : ""}
          fault={wrong.of("outbound")}
          set={(v) => set({ outbound: v || undefined })}
        />
        <chakra.label display="flex" gap="2" alignItems="center" py="0.5">
          <chakra.span flex="1">category</chakra.span>
          <Select
            maxW="190px"
            value={ask.category ?? x?.category ?? ""}
            onChange={(e) => set({ category: e.target.value || undefined })}
          >
            <option value="">everything else</option>
            {categories?.map((c) => (
              <option key={c.ref} value={c.ref}>
                {c.name}
              </option>
            ))}
          </Select>
        </chakra.label>
        <chakra.label display="flex" gap="2" alignItems="center" py="0.5">
          <chakra.span flex="1">fees as on</chakra.span>
          <Input
            type="date"
            h="28px"
            w="146px"
            value={ask.day ?? ""}
            onChange={(e) => set({ day: e.target.value || undefined })}
          />
        </chakra.label>
        <Fault>{wrong.of("day", "category")}</Fault>
        {x && <Quiet fontSize="12px">fees {x.fees_of}</Quiet>}
        {x?.can_store && <Stored ask={ask} answer={x} set={set} />}
      </Part>
      {x && x.listing_id !== 0 && (
        <Quiet display="block" fontSize="12.5px" pt="2">
          {x.quantity} offered: {x.offer}
        </Quiet>
      )}
    </>
  );
}

type StoredProps = { ask: Pick<Ask, "warehouse" | "packed">; answer: Answer; set: (change: Partial<Ask>) => void };

/** Stored says whether the marketplace's warehouse keeps and sends it, and how it is packed. */
export function Stored({ ask, answer: x, set }: StoredProps) {
  const packed = (name: "weight" | "length" | "width" | "height", label: string) => (
    <Input
      figures
      h="28px"
      w="54px"
      aria-label={label}
      placeholder={label.slice(0, 1)}
      value={ask.packed?.[name] ?? ""}
      onChange={(e) =>
        /^\d*$/.test(e.target.value) && set({ packed: { ...ask.packed, [name]: Number(e.target.value) || undefined } })
      }
    />
  );
  const on = ask.warehouse ? ask.warehouse === "yes" : x.warehouse;
  return (
    <>
      <chakra.label display="flex" gap="2" alignItems="center" py="0.5">
        <input type="checkbox" checked={on} onChange={(e) => set({ warehouse: e.target.checked ? "yes" : "no" })} />
        its warehouse keeps and sends it
      </chakra.label>
      {on && (
        <chakra.div display="flex" gap="1.5" alignItems="center" py="0.5">
          {packed("weight", "g, packed weight")} g {packed("length", "length in mm")} × {packed("width", "width in mm")}{" "}
          × {packed("height", "height in mm")} mm
        </chakra.div>
      )}
      {on && x.step && <Quiet display="block">charged as {x.step}</Quiet>}
    </>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <chakra.section aria-label={title} mb="3">
      <chakra.h3 fontWeight="700" fontSize="12.5px" color="quiet" mb="0.5">
        {title}
      </chakra.h3>
      {children}
    </chakra.section>
  );
}
