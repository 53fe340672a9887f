import type { Schemas } from "../../api/client";
import { decimals } from "../../parts/money";

export type NamedRule = Schemas["NamedRule"];
export type Condition = Schemas["RuleCondition"];

/** RuleText is a rule as it is being written: everything a text, nothing checked. */
export type RuleText = {
  id: number;
  name: string;
  suppliers: string;
  brands: string;
  categories: string[];
  skus: string;
  costFrom: string;
  costTo: string;
  weightFrom: number | undefined;
  weightTo: number | undefined;
  sieve: string; // its id
  aims: Condition[];
  keep: Condition[];
  stance: "ignore" | "below" | "equal" | "above";
  against: "lowest" | "lead";
  by: string;
  mayExceed: boolean;
  least: string;
  most: string;
  ends: boolean;
  every: string;
  at: string;
  way: "up" | "down" | "nearest";
};

/** kinds are what a price can be asked to leave, in words, with a figure to begin with. */
export const kinds: [Condition["kind"], string, string][] = [
  ["margin", "margin", "18%"],
  ["profit", "profit", "4.00"],
  ["return", "return on what is spent", "25%"],
  ["markup", "markup on the landed cost", "40%"],
  ["price", "price", "5.00"],
];

export const isAmount = (kind: Condition["kind"]) => kind === "profit" || kind === "price";

/** fresh is a rule to begin with. */
export function fresh(currency: string): NamedRule {
  const whole = decimals(currency) === 0;
  return {
    id: 0,
    name: "",
    fits: {},
    rule: {
      aims: [{ kind: "margin", value: "18%" }],
      keep: [{ kind: "profit", value: whole ? "100" : "1.00" }],
      endings: whole ? { every: "100", at: ["80"], way: "up" } : { every: "1.00", at: ["0.49", "0.99"], way: "up" },
    },
  };
}

/** toText is a rule to be written on. */
export function toText(r: NamedRule, currency: string): RuleText {
  const whole = decimals(currency) === 0;
  const { rule, fits } = r;
  return {
    id: r.id,
    name: r.name,
    suppliers: fits?.suppliers?.join(", ") ?? "",
    brands: fits?.brands?.join(", ") ?? "",
    categories: fits?.categories ?? [],
    skus: fits?.skus?.join(", ") ?? "",
    costFrom: fits?.cost_from ?? "",
    costTo: fits?.cost_to ?? "",
    weightFrom: fits?.weight_from,
    weightTo: fits?.weight_to,
    sieve: fits?.sieve ? String(fits.sieve) : "",
    aims: rule.aims,
    keep: rule.keep,
    stance: rule.market?.stance ?? "ignore",
    against: rule.market?.against ?? "lowest",
    by: rule.market?.by ?? (whole ? "1" : "0.01"),
    mayExceed: rule.market?.may_exceed_aim ?? false,
    least: rule.least ?? "",
    most: rule.most ?? "",
    ends: !!rule.endings,
    every: rule.endings?.every ?? (whole ? "100" : "1.00"),
    at: rule.endings?.at.join(", ") ?? (whole ? "80" : "0.49, 0.99"),
    way: rule.endings?.way ?? "up",
  };
}

const list = (text: string, by: RegExp) =>
  text
    .split(by)
    .map((s) => s.trim())
    .filter(Boolean);
const some = <T>(l: T[]) => (l.length ? l : undefined);

/** percent adds the sign that is easily left out; nothing else is mended here. */
export const percent = (s: string) => (/%\s*$/.test(s) || s.trim() === "" ? s.replace(/\s/g, "") : `${s.trim()}%`);

const condition = (c: Condition): Condition => ({
  kind: c.kind,
  value: isAmount(c.kind) ? c.value.trim() : percent(c.value),
  plus: c.kind === "markup" && c.plus?.trim() ? c.plus.trim() : undefined,
});

/** toRule is what was written, as the server takes it; the last rule is for all that is left. */
export function toRule(f: RuleText, last: boolean): NamedRule {
  return {
    id: f.id,
    name: f.name.trim(),
    fits: last
      ? undefined
      : {
          suppliers: some(list(f.suppliers, /,/)),
          brands: some(list(f.brands, /,/)),
          categories: some(f.categories),
          skus: some(list(f.skus, /[\s,;]+/)),
          cost_from: f.costFrom.trim() || undefined,
          cost_to: f.costTo.trim() || undefined,
          weight_from: f.weightFrom || undefined,
          weight_to: f.weightTo || undefined,
          sieve: Number(f.sieve) || undefined,
        },
    rule: {
      aims: f.aims.map(condition),
      keep: f.keep.map(condition),
      market:
        f.stance === "ignore"
          ? undefined
          : {
              stance: f.stance,
              against: f.against,
              by: f.stance === "equal" ? undefined : f.by.trim() || undefined,
              may_exceed_aim: f.mayExceed || undefined,
            },
      least: f.least.trim() || undefined,
      most: f.most.trim() || undefined,
      endings: f.ends ? { every: f.every.trim(), at: list(f.at, /[,;\s]+/), way: f.way } : undefined,
    },
  };
}
