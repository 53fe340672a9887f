import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useFees, useRates, useSources, useWhatIf } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { Fault, faults } from "../../parts/field";
import { Working } from "../../parts/working";
import { day } from "./fees";
import { percent } from "./ruleform";
import { Answer, Everywhere, lists, type Show } from "./whatifanswer";

type Site = Schemas["SiteView"];

/** WhatIf asks what other costs, fees or rates would do to everything that is
 * sold on a site, or on every site. Nothing is changed by it. */
export function WhatIf({ site }: { site: Site | undefined }) {
  const a = useAddress();
  const show = (a.get("show") in lists ? a.get("show") : "furthest") as Show;
  const { data: fees } = useFees(site?.id);
  const coming = [...new Set(fees?.filter((v) => !v.holds && !v.past).map((v) => v.starts_on))].sort();
  const { data: sources } = useSources();
  const { data: rates } = useRates();
  const [f, setF] = useState({ cost: "8%", supplier: "", feesOn: "", sales: "1" });
  const [fx, setFx] = useState<Record<string, string>>({});
  const set = (change: Partial<typeof f>) => setF((old) => ({ ...old, ...change }));
  const asked = useDeferredValue(
    useMemo<Schemas["WhatIf"]>(
      () => ({
        cost: percent(f.cost.replace("−", "-").replace(/^\+/, "")) || undefined,
        supplier: f.supplier || undefined,
        fees_on: f.feesOn || undefined,
        rates: site ? Object.fromEntries(Object.entries(fx).filter(([, v]) => v.trim())) : undefined,
        sales: /^\d+$/.test(f.sales) ? Number(f.sales) : undefined,
        show,
      }),
      [f, fx, site, show],
    ),
  );
  const { data: x, error, isFetching } = useWhatIf(site?.id, asked);
  const wrong = faults(error);
  const into = rates?.rates.filter((r) => r.to === site?.currency) ?? [];
  return (
    <chakra.div display="grid" gridTemplateColumns="330px minmax(0, 1fr)" gap="6" flex="1" minH="0" pt="3">
      <chakra.form aria-label="What if" overflowY="auto" p="1" m="-1" onSubmit={(e) => e.preventDefault()}>
        <Row label="suppliers' costs move by" fault={wrong.of("cost")}>
          <Input
            figures
            w="84px"
            aria-label="Costs move by"
            value={f.cost}
            placeholder="0%"
            onChange={(e) => set({ cost: e.target.value })}
          />
        </Row>
        <Row label="those of" fault={wrong.of("supplier")}>
          <Select
            aria-label="Supplier"
            maxW="190px"
            value={f.supplier}
            onChange={(e) => set({ supplier: e.target.value })}
          >
            <option value="">every supplier</option>
            {[...new Set(sources?.map((s) => s.supplier))].map((s) => (
              <option key={s}>{s}</option>
            ))}
          </Select>
        </Row>
        <Row label="the fees are those of" fault={wrong.of("fees_on")}>
          <Input
            type="date"
            w="150px"
            aria-label="Fees as on"
            value={f.feesOn}
            onChange={(e) => set({ feesOn: e.target.value })}
          />
        </Row>
        {coming.length > 0 && (
          <chakra.div display="flex" gap="2" justifyContent="flex-end" flexWrap="wrap">
            {coming.map((on) => (
              <Button
                key={on}
                type="button"
                size="small"
                aria-pressed={f.feesOn === on}
                onClick={() => set({ feesOn: f.feesOn === on ? "" : on })}
              >
                {f.feesOn === on ? "as they are today" : `as from ${day(on)}`}
              </Button>
            ))}
          </chakra.div>
        )}
        {into.map((r) => (
          <Row key={r.from} label={`${r.to} for 1 ${r.from}`}>
            <Input
              figures
              w="104px"
              aria-label={`${r.to} for 1 ${r.from}`}
              placeholder={r.rate}
              value={fx[r.from] ?? ""}
              onChange={(e) => setFx({ ...fx, [r.from]: e.target.value })}
            />
          </Row>
        ))}
        <Fault>{wrong.of("rates")}</Fault>
        <Row label="each sells in a month" fault={wrong.of("sales")}>
          <Input
            figures
            w="64px"
            aria-label="Sales of each in a month"
            value={f.sales}
            onChange={(e) => /^\d*$/.test(e.target.value) && set({ sales: e.target.value })}
          />{" "}
          times
        </Row>
        <chakra.div pt="3" display="flex" gap="3" alignItems="center">
          <Button
            type="button"
            onClick={() => {
              setF({ cost: "", supplier: "", feesOn: "", sales: "1" });
              setFx({});
            }}
          >
            As it is now
          </Button>
          <Working on={isFetching} />
        </chakra.div>
        <Quiet display="block" pt="3">
          At the prices that hold today, so that you see what would be lost before they move. Nothing is changed by
          asking. How often each truly sells isn't known yet; until it is, the figure above stands for all.
        </Quiet>
      </chakra.form>
      <chakra.section aria-label="What would come of it" aria-busy={isFetching} overflowY="auto" pl="2">
        <Trouble error={wrong.rest} />
        {x?.one && <Answer x={x.one} show={show} onShow={(of) => a.put({ show: of === "furthest" ? null : of })} />}
        {x?.all && <Everywhere x={x.all} onSite={(id) => a.put({ site: String(id) })} />}
      </chakra.section>
    </chakra.div>
  );
}

function Row({ label, fault, children }: { label: string; fault?: string; children: React.ReactNode }) {
  return (
    <chakra.div py="1">
      <chakra.div display="flex" gap="2" alignItems="center">
        <chakra.span flex="1">{label}</chakra.span>
        {children}
      </chakra.div>
      <Fault>{fault}</Fault>
    </chakra.div>
  );
}
