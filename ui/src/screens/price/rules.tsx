import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useCategories, useDo, useRules } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Key, Quiet, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { OwnRule } from "./ownrule";
import { RuleEditor } from "./ruleeditor";
import { fresh } from "./ruleform";

type Site = Schemas["SiteView"];
type Rule = Schemas["NamedRule"];

/** Rules are a site's price rules in the order they are tried: the first that fits a product holds. */
export function Rules({ site }: { site: Site }) {
  const a = useAddress();
  const { data: rules, error } = useRules(site.id);
  const own = Number(a.get("own"));
  const chosen = a.get("rule");
  const [fromSite, fromRule] = a.get("from").split(":").map(Number);
  const { data: others } = useRules(fromSite || undefined);
  const copied = others?.find((r) => r.id === fromRule);
  const blank = copied ? { ...copied, id: 0, fits: copied.fits ?? {} } : fromSite ? undefined : fresh(site.currency);
  const rule = chosen === "new" ? blank : rules?.find((r) => String(r.id) === chosen);
  const close = () => a.put({ rule: null, own: null, from: null });
  if (own) return <OwnRule key={own} listing={own} onClose={close} />;
  if (rule && rules)
    return (
      <RuleEditor
        key={chosen}
        site={site}
        rule={rule}
        last={rule.id !== 0 && rule.id === rules.at(-1)?.id}
        onClose={close}
      />
    );
  return (
    <>
      <Trouble error={error} />
      {rules && <List site={site} rules={rules} onOpen={(id) => a.put({ rule: id })} />}
    </>
  );
}

type ListProps = { site: Site; rules: Rule[]; onOpen: (id: string) => void };

function List({ site, rules, onOpen }: ListProps) {
  const [at, setAt] = useState(0);
  const [held, setHeld] = useState<number | null>(null); // dragged
  const [over, setOver] = useState<number | null>(null);
  const move = useDo(
    (x: { id: number; to: number }) =>
      read(api.POST("/api/rules/{id}/move", { params: { path: { id: x.id } }, body: { to: x.to } })),
    "rules",
    "listings",
  );
  const last = rules.length - 1;
  const shift = (by: number) => {
    const to = at + by;
    if (at >= last || to < 0 || to >= last || move.isPending) return;
    move.mutate({ id: rules[at].id, to });
    setAt(to);
  };
  useKeys({
    ArrowDown: () => setAt(Math.min(at + 1, last)),
    ArrowUp: () => setAt(Math.max(at - 1, 0)),
    Enter: () => onOpen(String(rules[at].id)),
    "+": () => shift(1),
    "-": () => shift(-1),
    ".": () => onOpen("new"),
  });
  return (
    <chakra.section aria-label="Price rules" pt="3" overflowY="auto" maxW="1120px">
      <chakra.div display="flex" alignItems="center" gap="4" mb="3">
        <Quiet flex="1">
          The first rule that fits a product sets its price on {site.name}. A listing with a rule or a price of its own
          is held by none of these.
        </Quiet>
        <Button look="main" onClick={() => onOpen("new")}>
          Add a rule <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={move.error} />
      <chakra.ol aria-label="Rules, in the order they are tried">
        {rules.map((r, i) => (
          <chakra.li
            key={r.id}
            draggable={i < last}
            onDragStart={(e) => {
              e.dataTransfer.setData("text/plain", r.name); // without which some browsers drag nothing
              e.dataTransfer.effectAllowed = "move";
              setHeld(i);
            }}
            onDragOver={(e) => {
              e.preventDefault();
              setOver(i);
            }}
            onDragEnd={() => {
              setHeld(null);
              setOver(null);
            }}
            onDrop={() => {
              if (held === null || held === i) return;
              const to = Math.min(i, last - 1);
              move.mutate({ id: rules[held].id, to });
              setAt(to);
            }}
            display="grid"
            gridTemplateColumns="34px minmax(0, 1fr) 130px 88px"
            gap="4"
            alignItems="center"
            px="2"
            py="2.5"
            borderTopWidth={over === i && held !== null ? "2px" : "1px"}
            borderColor={over === i && held !== null ? "ink" : "hair"}
            bg={at === i ? "band" : undefined}
            cursor={i < last ? "grab" : undefined}
            aria-current={at === i}
          >
            <Code color="quiet" textAlign="right">
              {i + 1}
            </Code>
            <chakra.button type="button" textAlign="left" cursor="pointer" onClick={() => onOpen(String(r.id))}>
              <chakra.span fontWeight="700">{r.name}</chakra.span>
              <chakra.span display="block" color="ink">
                <Quiet>
                  <Products fits={r.fits} site={site.id} />:
                </Quiet>{" "}
                {r.words}
              </chakra.span>
            </chakra.button>
            <chakra.span textAlign="right">
              <Code color="ink">{r.listings ?? 0}</Code> <Quiet>{r.listings === 1 ? "listing" : "listings"}</Quiet>
            </chakra.span>
            <chakra.span textAlign="right">
              {i < last ? (
                <>
                  <Button
                    size="small"
                    look="plain"
                    aria-label={`Try ${r.name} sooner`}
                    disabled={i === 0 || move.isPending}
                    onClick={() => move.mutate({ id: r.id, to: i - 1 })}
                  >
                    ↑
                  </Button>
                  <Button
                    size="small"
                    look="plain"
                    aria-label={`Try ${r.name} later`}
                    disabled={i >= last - 1 || move.isPending}
                    onClick={() => move.mutate({ id: r.id, to: i + 1 })}
                  >
                    ↓
                  </Button>
                </>
              ) : (
                <Quiet fontSize="12px">always last</Quiet>
              )}
            </chakra.span>
          </chakra.li>
        ))}
      </chakra.ol>
      <Quiet fontSize="12.5px" display="block" pt="3">
        <Key>↑</Key> <Key>↓</Key> go through them, <Key>Enter</Key> opens, <Key>−</Key> and <Key>+</Key> move one sooner
        or later.
      </Quiet>
    </chakra.section>
  );
}

/** Products says which products a rule is for. */
export function Products({ fits, site }: { fits: Rule["fits"]; site: number }) {
  const { data: categories } = useCategories(site);
  if (!fits) return "all that no rule above fits";
  const parts: string[] = [];
  const any = (list: string[] | undefined, one: (words: string) => string) => {
    if (list?.length) parts.push(one(list.join(" or ")));
  };
  any(fits.brands, (w) => w);
  any(fits.suppliers, (w) => `from ${w}`);
  any(
    fits.categories?.map((c) => categories?.find((x) => x.ref === c)?.name ?? c),
    (w) => `in ${w}`,
  );
  if (fits.cost_from || fits.cost_to)
    parts.push(
      fits.cost_from && fits.cost_to
        ? `costing ${fits.cost_from} to ${fits.cost_to}`
        : fits.cost_from
          ? `costing ${fits.cost_from} and more`
          : `costing up to ${fits.cost_to}`,
    );
  if (fits.weight_from || fits.weight_to)
    parts.push(`weighing ${fits.weight_from ?? 0} to ${fits.weight_to ?? "any"} g`);
  any(fits.skus, (w) => (fits.skus && fits.skus.length > 3 ? `${fits.skus.length} picked by hand` : w));
  return parts.join(", ") || "every product";
}
