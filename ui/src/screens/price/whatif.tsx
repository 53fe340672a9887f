import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useRates, useSources, useWhatIf } from "../../api/queries";
import { Button, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { Fault, faults } from "../../parts/field";
import { Money } from "../../parts/money";
import { Moves, Tally } from "./moves";
import { percent } from "./ruleform";

type Site = Schemas["SiteView"];

/** WhatIf asks what other costs, fees or rates would do to everything that is sold. Nothing is changed by it. */
export function WhatIf({ site }: { site: Site }) {
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
        rates: Object.fromEntries(Object.entries(fx).filter(([, v]) => v.trim())),
        sales: /^\d+$/.test(f.sales) ? Number(f.sales) : undefined,
      }),
      [f, fx],
    ),
  );
  const { data: x, error, isFetching } = useWhatIf(site.id, asked);
  const wrong = faults(error);
  const into = rates?.rates.filter((r) => r.to === site.currency) ?? [];
  return (
    <chakra.div display="grid" gridTemplateColumns="330px minmax(0, 1fr)" gap="8" flex="1" minH="0" pt="3">
      <chakra.form aria-label="What if" overflowY="auto" onSubmit={(e) => e.preventDefault()}>
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
        {into.map((r) => (
          <Row key={r.from} label={`${site.currency} for 1 ${r.from}`}>
            <Input
              figures
              w="104px"
              aria-label={`${site.currency} for 1 ${r.from}`}
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
        </chakra.div>
        <Quiet display="block" pt="3">
          At the prices that hold today, so that you see what would be lost before they move. Nothing is changed by
          asking. How often each truly sells isn't known yet; until it is, the figure above stands for all.
        </Quiet>
      </chakra.form>
      <chakra.section aria-label="What would come of it" aria-busy={isFetching} overflowY="auto">
        <Trouble error={wrong.rest} />
        {x && <Answer x={x} />}
      </chakra.section>
    </chakra.div>
  );
}

function Answer({ x }: { x: Schemas["WhatIfAnswer"] }) {
  const lost = x.then - x.now;
  return (
    <>
      <chakra.p fontSize="17px" mb="3">
        {lost === 0 ? (
          <>The month would leave what it leaves now, </>
        ) : (
          <>
            The month would leave <Money minor={x.then} currency={x.currency} fontWeight="700" unit />,{" "}
            <Money minor={lost} currency={x.currency} sign fontWeight="700" unit /> against now,{" "}
          </>
        )}
        <Money minor={x.now} currency={x.currency} unit />.
      </chakra.p>
      <chakra.div display="flex" gap="8" mb="4">
        <Tally n={x.worse}>of {x.listings} would earn less</Tally>
        <Tally n={x.under_floor} loud={x.under_floor > 0}>
          would fall under their floor
        </Tally>
        <Tally n={x.at_loss} loud={x.at_loss > 0}>
          would lose on every sale
        </Tally>
        {x.unpriced > 0 && (
          <Tally n={x.unpriced} loud>
            could not be worked out then
          </Tally>
        )}
      </chakra.div>
      {x.most.length > 0 && (
        <>
          <chakra.h3 fontWeight="700" fontSize="12.5px" color="quiet">
            Those that would fall furthest
          </chakra.h3>
          <Moves moves={x.most} currency={x.currency} to="Rules would ask" />
        </>
      )}
    </>
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
