import type { Column } from "./queries";

/** Condition is one comparison of one column, as core/sieve reads it. */
export type Condition = { column: string; op: string; values?: string[] };

/** Sieve is conditions that must all hold; each part is several of which any must. */
export type Sieve = Condition[][];

/** heads are the columns in words. */
export const heads: Record<string, string> = {
  title: "title",
  brand: "brand",
  category: "category",
  supplier: "supplier",
  landed: "landed cost",
  stock: "stock",
  lowest: "lowest",
  leading: "leading",
  sellers: "sellers",
  rating: "rating",
  rank: "rank",
  weight: "weight in grams",
  ties_up: "what one sale ties up",
  profit_lowest: "profit at the lowest",
  margin_lowest: "margin at the lowest",
  return_lowest: "return at the lowest",
  profit_leading: "profit at the leading",
  price_rule: "rule's price",
  profit_rule: "profit at the rule's price",
  price_aim: "price for the aim",
  above: "aim above the lowest",
  best_supplier: "best supplier",
  best_site: "best site",
  units_sold: "sold in thirty days",
  ours: "ours already",
  certain: "certainly the same thing",
};

/** read reads a sieve from an address; what can't be read lets everything through. */
export function readSieve(text: string): Sieve {
  try {
    const parts: unknown = text ? JSON.parse(text) : [];
    return Array.isArray(parts) ? parts.map((p) => (Array.isArray(p) ? p : [p])).filter((p) => p.length > 0) : [];
  } catch {
    return [];
  }
}

/** written is a sieve as the address and the server have it; empty where it lets everything through. */
export const written = (s: Sieve) => (s.length === 0 ? "" : JSON.stringify(s.map((p) => (p.length === 1 ? p[0] : p))));

/** inWords says a condition. */
export function inWords(c: Condition): string {
  const head = heads[c.column] ?? c.column;
  const values = c.values ?? [];
  if (c.op === "between") return `${head} between ${values[0]} and ${values[1]}`;
  if (c.op === "empty") return `${head} not known`;
  if (c.op === "filled") return `${head} known`;
  if (c.op === "has words") return `${head} has “${values.join(" ")}”`;
  return `${head} ${c.op} ${values.join(", ")}`;
}

/** takes says how many values a comparison takes. */
export const takes = (op: string) => (op === "empty" || op === "filled" ? 0 : op === "between" ? 2 : 1);

/** unit is what a column's values are written in. */
export const unit = (c: Column | undefined, currency: string) =>
  c?.kind === "amount" ? currency : c?.kind === "share" ? "%" : c?.kind === "rating" ? "stars" : "";
