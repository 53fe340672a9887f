import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo } from "react";
import { useForm, useWatch } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { useRates, useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { DayInput } from "../../parts/day";
import { Form, Line, Tick, useServerFaults, WholeInput, Wrong } from "../../parts/form";
import { day } from "../../parts/when";
import { Working } from "../../parts/working";
import { asked } from "./ask";
import { useFees, useWhatIf } from "./queries";
import { percent } from "./ruleform";
import { Answer, Everywhere, lists, type Show } from "./whatifanswer";

type Site = Schemas["SiteView"];
type Values = {
  cost: string;
  supplier: string;
  fees_on: string;
  sales: number;
  sold: boolean;
  rates: Record<string, string>;
};

/** asIs is the question that changes nothing. */
const asIs = (froms: string[]): Values => ({
  cost: "",
  supplier: "",
  fees_on: "",
  sales: 1,
  sold: false,
  rates: Object.fromEntries(froms.map((f) => [f, ""])),
});

/** WhatIf asks what other costs, fees or rates would do to everything that is
 * sold on a site, or on every site. Nothing is changed by it. */
export function WhatIf({ site }: { site: Site | undefined }) {
  const a = useAddress();
  const show = (a.get("show") in lists ? a.get("show") : "furthest") as Show;
  const { data: fees } = useFees(site?.id);
  const coming = [...new Set(fees?.filter((v) => !v.holds && !v.past).map((v) => v.starts_on))].sort();
  const { data: sources } = useSources();
  const { data: rates } = useRates();
  const into = rates?.rates.filter((r) => r.to === site?.currency) ?? [];
  const form = useForm<Values>({ defaultValues: { ...asIs([]), cost: "8%" } });
  const { register, setValue, control } = form;
  const f = useWatch({ control }) as Values;
  const question = useDeferredValue(
    useMemo<Schemas["WhatIf"]>(
      () =>
        asked({ ...f, cost: percent(f.cost.replace("−", "-").replace(/^\+/, "")), sales: f.sales || undefined, show }),
      [f, show],
    ),
  );
  const { data: x, error, isFetching } = useWhatIf(site?.id, question);
  const rest = useServerFaults(form, error);
  return (
    <chakra.div display="grid" gridTemplateColumns="330px minmax(0, 1fr)" gap="6" flex="1" minH="0" pt="3">
      <Form form={form} label="What if" onSubmit={(e) => e?.preventDefault()} overflowY="auto" p="1" m="-1">
        <Line label="suppliers' costs move by" faults={["cost"]}>
          <Input figures w="84px" aria-label="Costs move by" placeholder="0%" {...register("cost")} />
        </Line>
        <Line label="those of" faults={["supplier"]}>
          <Select aria-label="Supplier" maxW="190px" {...register("supplier")}>
            <option value="">every supplier</option>
            {[...new Set(sources?.map((s) => s.supplier))].map((s) => (
              <option key={s}>{s}</option>
            ))}
          </Select>
        </Line>
        <Line label="the fees are those of" faults={["fees_on"]}>
          <DayInput name="fees_on" aria-label="Fees as on" hint="today" h="32px" />
        </Line>
        {coming.length > 0 && (
          <chakra.div display="flex" gap="2" justifyContent="flex-end" flexWrap="wrap">
            {coming.map((on) => (
              <Button
                key={on}
                size="small"
                aria-pressed={f.fees_on === on}
                onClick={() => setValue("fees_on", f.fees_on === on ? "" : on)}
              >
                {f.fees_on === on ? "as they are today" : `as from ${day(on)}`}
              </Button>
            ))}
          </chakra.div>
        )}
        {into.map((r) => (
          <Line key={r.from} label={`${r.to} for 1 ${r.from}`}>
            <Input
              figures
              w="104px"
              aria-label={`${r.to} for 1 ${r.from}`}
              placeholder={r.rate}
              {...register(`rates.${r.from}`)}
            />
          </Line>
        ))}
        <Wrong of={["rates"]} />
        <Line label="each sells in a month" faults={["sales"]} unit="times">
          <WholeInput name="sales" aria-label="Sales of each in a month" w="64px" empty />
        </Line>
        <Tick name="sold" label="or as often as each was really sold in the last thirty days" />
        <chakra.div pt="3" display="flex" gap="3" alignItems="center">
          <Button onClick={() => form.reset(asIs(into.map((r) => r.from)))}>As it is now</Button>
          <Working on={isFetching} />
        </chakra.div>
        <Quiet display="block" pt="3">
          At the prices that hold today, so that you see what would be lost before they move. Nothing is changed by
          asking.
        </Quiet>
      </Form>
      <chakra.section aria-label="What would come of it" aria-busy={isFetching} overflowY="auto" pl="2" tabIndex={0}>
        <Trouble error={rest} />
        {x?.one && <Answer x={x.one} show={show} onShow={(of) => a.put({ show: of === "furthest" ? null : of })} />}
        {x?.all && <Everywhere x={x.all} onSite={(id) => a.put({ site: String(id) })} />}
      </chakra.section>
    </chakra.div>
  );
}
