import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useFormContext, useWatch } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { useCategories } from "../../api/queries";
import { Quiet, Select } from "../../parts/controls";
import { DayInput } from "../../parts/day";
import { Figure, Line, Text, WholeInput, Wrong } from "../../parts/form";
import { money } from "../../parts/money";
import type { Answer, Ask } from "./ask";

type Site = Schemas["SiteView"];

/** Figures are what a price is reckoned from. In grey stands what holds; what is typed takes its place. */
export function Figures({ site, answer: x }: { site: Site; answer?: Answer }) {
  const { data: categories } = useCategories(site.id);
  const { setValue } = useFormContext<Ask>();
  const category = useWatch<Ask, "category">({ name: "category" });
  const f = x?.figures;
  const cur = f?.currency ?? site.currency;
  type Name = "unit" | "charge" | "free_from" | "duty" | "fx" | "cushion" | "handling";
  const figure = (name: Name, label: string, unit: string) => (
    <Figure name={`cost.${name}`} label={label} unit={unit} hint={f?.[name] || "none"} />
  );
  const units = (name: "units_bought" | "units_listed", label: string) => (
    <chakra.label display="inline-flex" gap="1.5" alignItems="center">
      {label}
      <WholeInput name={`cost.${name}`} aria-label={label} w="52px" placeholder={String(f?.[name] ?? 1)} empty />
    </chakra.label>
  );
  return (
    <>
      <Part title="What it costs">
        <Text upper name="cost.currency" label="one item, in" unit="" hint={cur} w="56px" />
        {figure("unit", "one item of the supplier's", cur)}
        <chakra.div display="flex" gap="3" justifyContent="flex-end" pr="42px" py="0.5">
          {units("units_bought", "units in it")} {units("units_listed", "listed")}
        </chakra.div>
        <Wrong of={["cost.units_bought", "cost.units_listed"]} />
        {figure("charge", "its delivery", cur)}
        {figure("free_from", "free from", cur)}
        {figure("duty", "duty", "")}
        {cur !== site.currency && figure("fx", `${site.currency} for 1 ${cur}`, "")}
        {cur !== site.currency && figure("cushion", "cushion for the rate", "%")}
        {figure("handling", "handling", site.currency)}
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
        <Figure
          name="charged"
          label="buyer pays for delivery"
          unit={site.currency}
          hint={x ? money(x.charged, site.currency) : ""}
        />
        <Figure
          name="outbound"
          label="sending it costs you"
          unit={site.currency}
          hint={x ? money(x.outbound, site.currency) : ""}
        />
        <Line label="category" faults={["category"]}>
          <Select
            maxW="190px"
            value={category || x?.category || ""}
            onChange={(e) => setValue("category", e.target.value)}
          >
            <option value="">everything else</option>
            {categories?.map((c) => (
              <option key={c.ref} value={c.ref}>
                {c.name}
              </option>
            ))}
          </Select>
        </Line>
        <Line label="fees as on" faults={["day"]}>
          <DayInput name="day" hint="today" />
        </Line>
        {x && <Quiet fontSize="12px">fees {x.fees_of}</Quiet>}
        {x?.can_store && <Stored answer={x} />}
      </Part>
      {x && x.listing_id !== 0 && (
        <Quiet display="block" fontSize="12.5px" pt="2">
          {x.quantity} offered: {x.offer}
        </Quiet>
      )}
    </>
  );
}

/** Stored says whether the marketplace's warehouse keeps and sends it, and how it is packed. */
export function Stored({ answer: x }: { answer: Answer }) {
  const { setValue } = useFormContext<Pick<Ask, "warehouse" | "packed">>();
  const chosen = useWatch<Pick<Ask, "warehouse">, "warehouse">({ name: "warehouse" });
  const on = chosen ? chosen === "yes" : x.warehouse;
  const packed = (name: "weight" | "length" | "width" | "height", label: string) => (
    <WholeInput name={`packed.${name}`} aria-label={label} placeholder={label.slice(0, 1)} w="54px" empty />
  );
  return (
    <>
      <chakra.label display="flex" gap="2" alignItems="center" minH="24px" py="0.5">
        <input type="checkbox" checked={on} onChange={(e) => setValue("warehouse", e.target.checked ? "yes" : "no")} />
        its warehouse keeps and sends it
      </chakra.label>
      {on && (
        <chakra.div display="flex" gap="1.5" alignItems="center" py="0.5">
          {packed("weight", "g, packed weight")} g {packed("length", "length in mm")} × {packed("width", "width in mm")}{" "}
          × {packed("height", "height in mm")} mm
        </chakra.div>
      )}
      {on && x.step && <Quiet display="block">charged as {x.step}</Quiet>}
      <Wrong of={["packed", "warehouse"]} />
    </>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <chakra.section aria-label={title} mb="3">
      <chakra.h2 fontWeight="700" fontSize="12.5px" color="quiet" mb="0.5">
        {title}
      </chakra.h2>
      {children}
    </chakra.section>
  );
}
