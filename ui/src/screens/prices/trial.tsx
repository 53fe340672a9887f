import { chakra } from "@chakra-ui/react";
import { useForm, useWatch } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { Input, Quiet, Trouble } from "../../parts/controls";
import { Fault } from "../../parts/fault";
import { Form } from "../../parts/form";
import { decimals } from "../../parts/money";
import { Lines } from "../../parts/strip";
import { day } from "../../parts/when";
import { type Ask, asked } from "./ask";
import { Stored } from "./figures";
import { useBench } from "./queries";
import type { FeeRow } from "./schedule";

type Site = Schemas["SiteView"];
type TrialProps = { site: Site; category: string; versions: FeeRow[] };

/** Trial is a price in and its lines out, under each version that holds or will. */
export function Trial({ site, category, versions }: TrialProps) {
  const form = useForm<Ask>({
    defaultValues: {
      lead: "price",
      value: decimals(site.currency) === 0 ? "4980" : "49.99",
      cost: { unit: "0", handling: "0" },
    },
  });
  const tried = useWatch({ control: form.control }) as Ask;
  const live = versions.filter((f) => !f.past);
  const ask = (version: FeeRow | undefined): Ask => ({
    ...asked(tried),
    site_id: site.id,
    category: category || undefined,
    day: version && !version.holds ? version.starts_on : undefined,
  });
  const { data: first } = useBench(ask(live[0]));
  return (
    <chakra.section aria-label="Try a price" borderLeftWidth="1px" borderColor="hair" pl="5" overflowY="auto">
      <Form form={form} label="Try a price" onSubmit={(e) => e?.preventDefault()}>
        <chakra.label display="flex" gap="2" alignItems="center" fontWeight="700">
          Try a price
          <Input figures w="104px" {...form.register("value")} /> {site.currency}
        </chakra.label>
        <Quiet display="block" fontSize="12.5px" mb="2">
          costs left out, with delivery and tax as on {site.name}
        </Quiet>
        {first?.can_store && (
          <chakra.div mb="2">
            <Stored answer={first} />
          </chakra.div>
        )}
      </Form>
      {live.map((f) => (
        <Tried
          key={f.starts_on}
          ask={ask(f)}
          title={live.length > 1 ? (f.holds ? "today" : `from ${day(f.starts_on)}`) : undefined}
        />
      ))}
    </chakra.section>
  );
}

/** Tried is the price under one version: its lines, or what speaks against it. */
function Tried({ ask, title }: { ask: Ask; title?: string }) {
  const { data, error } = useBench(ask);
  return (
    <chakra.div mb="4">
      {title && <Quiet>{title}</Quiet>}
      <Trouble error={error} />
      {data && !error && data.why && <Fault>{data.why}</Fault>}
      {data && !error && !data.why && (
        <Lines
          lines={data.lines.filter((l) => l.kind !== "cost")}
          left={(data.profit ?? 0) + data.landed}
          currency={data.currency}
        />
      )}
    </chakra.div>
  );
}
