import { chakra } from "@chakra-ui/react";
import { useEffect, useMemo } from "react";
import { useForm, useFormContext, useWatch } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { useAddress } from "../../parts/address";
import { Button, Code, Input, Quiet, Trouble } from "../../parts/controls";
import { ProfitCurve } from "../../parts/curve";
import { Form, useFault, useServerFaults, Wrong } from "../../parts/form";
import { Money, plain } from "../../parts/money";
import { figures, Opened } from "../../parts/strip";
import { type Answer, type Ask, asked, begin, kept, useLead } from "./ask";
import { Figures } from "./figures";
import { Picker, priceField } from "./picker";
import { useBench } from "./queries";
import { SideBySide } from "./sidebyside";

type Site = Schemas["SiteView"];

/** Bench tries any price on any product or loose figures: whatever figure is written leads, the rest follow. */
export function Bench({ site }: { site: Site }) {
  const a = useAddress();
  const { put } = a;
  const form = useForm<Ask>({
    defaultValues: kept(a.get("ask")) ?? begin(Number(a.get("product")) || 0, Number(a.get("item")) || 0),
  });
  const ask = useWatch({ control: form.control }) as Ask;
  // What is tried is in the address, a moment after the last key.
  useEffect(() => {
    const t = window.setTimeout(() => put({ ask: JSON.stringify(asked(ask)) }), 400);
    return () => window.clearTimeout(t);
  }, [ask, put]);
  const question = useMemo<Ask>(() => ({ ...asked(ask), site_id: site.id }), [ask, site.id]);
  const bench = useBench(question);
  const rest = useServerFaults(form, bench.error);
  const x = bench.data;
  const pick = (id: number) => {
    put({ product: id ? String(id) : null, item: null });
    form.reset(begin(id));
  };
  return (
    <Form
      form={form}
      label="Bench"
      onSubmit={(e) => e?.preventDefault()}
      display="grid"
      gridTemplateColumns="306px minmax(0, 1fr)"
      gap="6"
      flex="1"
      minH="0"
      pt="2"
    >
      <chakra.div overflowY="auto" pr="1">
        <Picker title={x?.title} sku={x?.sku} product={ask.product_id ?? ask.supplier_product_id ?? 0} onPick={pick} />
        <Figures site={site} answer={x} />
      </chakra.div>
      <chakra.div overflowY="auto" minW="0" pr="1" aria-busy={bench.isFetching}>
        <Trouble error={rest} retry={() => bench.refetch()} />
        {x && <Answered x={x} ask={ask} question={question} old={!!bench.error} />}
      </chakra.div>
    </Form>
  );
}

type AnsweredProps = { x: Answer; ask: Ask; question: Ask; old: boolean };

function Answered({ x, ask, question, old }: AnsweredProps) {
  const lead = useLead();
  return (
    <>
      {x.why && <Trouble error={new Error(x.why)} />}
      <Five x={x} ask={ask} />
      <chakra.div opacity={old ? 0.4 : 1}>
        {!x.why && (
          <>
            <Around x={x} leads={ask.lead === "rule"} />
            <ProfitCurve answer={x} onPrice={(minor) => lead("price", plain(minor, x.currency))} />
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
            <SideBySide ask={question} />
            <Former x={x} />
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

const leads = ["price", "profit", "margin", "return", "markup"] as const;

/** Five are the five figures that write into one another; the one written last leads. */
function Five({ x, ask }: { x: Answer; ask: Ask }) {
  const write = useLead();
  const fault = useFault("value");
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
              onChange={(e) => write(lead, e.target.value)}
            />
          </chakra.label>
        ))}
      </chakra.div>
      <Wrong of={["value"]} />
    </chakra.section>
  );
}

/** Around are the prices that stand around the one tried. */
function Around({ x, leads: ruleLeads }: { x: Answer; leads: boolean }) {
  const write = useLead();
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
        {!ruleLeads && x.rule.price != null && (
          <Button size="small" ml="2" onClick={() => write("rule", "")}>
            Let the rule lead
          </Button>
        )}
      </chakra.span>
    </chakra.div>
  );
}

/** Former is a former price to show crossed out, and what may be said of it. */
function Former({ x }: { x: Answer }) {
  const { register } = useFormContext<Ask>();
  return (
    <chakra.div pt="3">
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <chakra.label display="flex" gap="2" alignItems="center">
          Former price, crossed out
          <Input figures w="90px" h="28px" placeholder="none" {...register("former")} />
        </chakra.label>
        {x.former && (
          <span>
            <Code color="ink">−{x.former.percent} %</Code>
            {x.former.warning && <chakra.span color="loss"> {x.former.warning}.</chakra.span>}
          </span>
        )}
      </chakra.div>
      <Wrong of={["former"]} />
    </chakra.div>
  );
}
