import { chakra } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useBench } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Input, Quiet, Trouble } from "../../parts/controls";
import { ProfitCurve } from "../../parts/curve";
import { Fault, faults } from "../../parts/field";
import { Money, plain } from "../../parts/money";
import { Opened, type StripFigures } from "../../parts/strip";
import { Figures } from "./figures";
import { Picker, priceField } from "./picker";
import { SideBySide } from "./sidebyside";

type Site = Schemas["SiteView"];
export type Ask = Schemas["BenchAsk"];
export type Answer = Schemas["BenchAnswer"];

/** begin is a first question: a product's by its rule, or loose figures with a price to start from. */
const begin = (product: number, item = 0): Ask =>
  product || item
    ? { site_id: 0, product_id: product || undefined, supplier_product_id: product ? undefined : item, lead: "rule" }
    : { site_id: 0, cost: { unit: "10.00" }, lead: "margin", value: "18%" };

function kept(text: string): Ask | null {
  try {
    const x = JSON.parse(text);
    return x && typeof x === "object" ? (x as Ask) : null;
  } catch {
    return null;
  }
}

/** Bench tries any price on any product or loose figures: whatever figure is written leads, the rest follow. */
export function Bench({ site }: { site: Site }) {
  const a = useAddress();
  const product = Number(a.get("product")) || 0;
  const [ask, setAsk] = useState<Ask>(() => kept(a.get("ask")) ?? begin(product, Number(a.get("item")) || 0));
  const { put } = a;
  // What is tried is in the address, a moment after the last key.
  useEffect(() => {
    const t = window.setTimeout(() => put({ ask: JSON.stringify({ ...ask, site_id: 0 }) }), 400);
    return () => window.clearTimeout(t);
  }, [ask, put]);
  const asked = useMemo<Ask>(() => ({ ...ask, site_id: site.id }), [ask, site.id]);
  const bench = useBench(asked);
  const x = bench.data;
  const set = (change: Partial<Ask>) => setAsk((old) => ({ ...old, ...change }));
  const pick = (id: number) => {
    a.put({ product: id ? String(id) : null, item: null });
    setAsk(begin(id));
  };
  const wrong = faults(bench.error);
  return (
    <chakra.div display="grid" gridTemplateColumns="306px minmax(0, 1fr)" gap="6" flex="1" minH="0" pt="2">
      <chakra.div overflowY="auto" pr="1">
        <Picker title={x?.title} sku={x?.sku} product={ask.product_id ?? ask.supplier_product_id ?? 0} onPick={pick} />
        <Figures site={site} ask={ask} answer={x} set={set} wrong={wrong} />
      </chakra.div>
      <chakra.div overflowY="auto" minW="0" pr="1" aria-busy={bench.isFetching}>
        <Trouble error={wrong.rest} retry={() => bench.refetch()} />
        {x && <Answered x={x} ask={ask} set={set} fault={wrong.of("value")} asked={asked} old={!!bench.error} />}
      </chakra.div>
    </chakra.div>
  );
}

type AnsweredProps = {
  x: Answer;
  ask: Ask;
  asked: Ask;
  set: (change: Partial<Ask>) => void;
  fault?: string;
  old?: boolean;
};

function Answered({ x, ask, asked, set, fault, old }: AnsweredProps) {
  const toPrice = (minor: number) => set({ lead: "price", value: plain(minor, x.currency) });
  return (
    <>
      {x.why && <Trouble error={new Error(x.why)} />}
      <Five x={x} ask={ask} set={set} fault={fault} />
      <chakra.div opacity={old ? 0.4 : 1}>
        {!x.why && (
          <>
            <Around x={x} ask={ask} set={set} />
            <ProfitCurve answer={x} onPrice={toPrice} />
          </>
        )}
        <chakra.div
          display="grid"
          gridTemplateColumns={{ base: "minmax(0, 1fr)", xl: "364px minmax(0, 1fr)" }}
          gap="6"
          pt="2"
        >
          <chakra.section aria-label="Lines">
            {x.lines.length > 0 && <Opened figures={figures(x)} currency={x.currency} lines={x.lines} />}
          </chakra.section>
          <div>
            <SideBySide ask={asked} />
            <Former x={x} ask={ask} set={set} />
            {x.warnings.map((w) => (
              <Quiet key={w} display="block">
                Mind: {w}.
              </Quiet>
            ))}
          </div>
        </chakra.div>
      </chakra.div>
    </>
  );
}

/** figures are the parts of a margin strip, summed from the lines. */
export function figures(x: Answer): StripFigures {
  const sum = (...kinds: string[]) => x.lines.reduce((n, l) => (kinds.includes(l.kind) ? n - l.amount : n), 0);
  return {
    price: x.price,
    landed: x.landed,
    outbound: sum("outbound", "delivery"),
    fees: sum("fee", "fee tax", "allowance"),
    tax: sum("tax"),
    profit: x.profit,
    break_even: x.break_even,
    floor: x.floor,
  };
}

const leads = ["price", "profit", "margin", "return", "markup"] as const;

/** Five are the five figures that write into one another; the one written last leads. */
function Five({ x, ask, set, fault }: Omit<AnsweredProps, "asked">) {
  const shown = (lead: (typeof leads)[number]) => {
    if (ask.lead === lead) return ask.value ?? "";
    if (lead === "price") return x.price == null ? "" : plain(x.price, x.currency);
    if (lead === "profit") return x.profit == null ? "" : plain(x.profit, x.currency);
    return x[lead];
  };
  return (
    <chakra.section aria-label="Figures that follow each other" mb="1">
      <chakra.div display="grid" gridTemplateColumns="repeat(5, minmax(0, 1fr))" gap="3">
        {leads.map((lead) => (
          <chakra.label key={lead}>
            <chakra.span display="flex" justifyContent="space-between" fontSize="12.5px">
              <chakra.span fontWeight={ask.lead === lead ? "700" : "400"}>
                {lead}
                {lead === "price" || lead === "profit" ? `, ${x.currency}` : ""}
              </chakra.span>
              {ask.lead === lead && <Quiet>leads</Quiet>}
              {lead === "price" && ask.lead === "rule" && (
                <Quiet display={{ base: "none", xl: "inline" }}>the rule leads</Quiet>
              )}
            </chakra.span>
            <Input
              id={lead === "price" ? priceField : undefined}
              figures
              w="100%"
              h="40px"
              fontSize="19px"
              fontWeight="700"
              borderColor={ask.lead === lead ? "ink" : "hair"}
              color={lead !== "price" && (x.profit ?? 0) < 0 ? "loss" : "ink"}
              aria-invalid={ask.lead === lead && !!fault}
              value={shown(lead)}
              onChange={(e) => set({ lead, value: e.target.value })}
            />
          </chakra.label>
        ))}
      </chakra.div>
      <Fault>{fault}</Fault>
    </chakra.section>
  );
}

/** Around are the prices that stand around the one tried. */
function Around({ x, ask, set }: Omit<AnsweredProps, "asked">) {
  return (
    <chakra.div display="flex" gap="6" alignItems="baseline" py="2">
      <span>
        break-even <Money minor={x.break_even} currency={x.currency} fontWeight="700" />
      </span>
      <span title="The lowest offer worth accepting">
        floor, the lowest offer to accept <Money minor={x.floor} currency={x.currency} fontWeight="700" />
      </span>
      <chakra.span flex="1" textAlign="right">
        {x.rule.price == null ? (
          <Quiet>
            rule “{x.rule.name}”: {x.rule.why}
          </Quiet>
        ) : (
          <>
            rule “{x.rule.name}” asks <Money minor={x.rule.price} currency={x.currency} fontWeight="700" />,{" "}
            <Quiet>{x.rule.why}</Quiet>{" "}
          </>
        )}
        {ask.lead !== "rule" && x.rule.price != null && (
          <Button size="small" ml="2" onClick={() => set({ lead: "rule", value: undefined })}>
            Let the rule lead
          </Button>
        )}
      </chakra.span>
    </chakra.div>
  );
}

/** Former is a former price to show crossed out, and what may be said of it. */
function Former({ x, ask, set }: Omit<AnsweredProps, "asked">) {
  return (
    <chakra.div pt="3" display="flex" gap="3" alignItems="center" flexWrap="wrap">
      <chakra.label display="flex" gap="2" alignItems="center">
        Former price, crossed out
        <Input
          figures
          w="90px"
          h="28px"
          value={ask.former ?? ""}
          placeholder="none"
          onChange={(e) => set({ former: e.target.value || undefined })}
        />
      </chakra.label>
      {x.former && (
        <span>
          <Code color="ink">−{x.former.percent} %</Code>
          {x.former.warning && <chakra.span color="loss"> {x.former.warning}.</chakra.span>}
        </span>
      )}
    </chakra.div>
  );
}
