import { Code, Quiet, Word } from "../../parts/controls";
import type { Column } from "../../parts/grid";
import { Money } from "../../parts/money";
import { Pictured } from "../../parts/picture";
import type { Candidate } from "./queries";
import { heads } from "./words";

/** percent writes millionths as a percentage with one decimal, as a person reads it. */
export function percent(v: number | null): string {
  if (v === null) return "–";
  const tenths = Math.floor((Math.abs(v) + 500) / 1000);
  return `${v < 0 && tenths > 0 ? "−" : ""}${Math.floor(tenths / 10)}.${tenths % 10}%`;
}

/** stars writes hundredths of a star. */
export const stars = (v: number | null) =>
  v === null ? "–" : `${Math.floor(v / 100)}.${String(v % 100).padStart(2, "0")}`;

/** certain tells whether a candidate is the same thing without a doubt, and not listed yet. */
export const certain = (c: Candidate) =>
  !c.ours && (c.state === "certain" || (c.state === "weighed" && c.verdict === "certain"));

/** Standing says what keeps a candidate from being listed, or that it is. */
export function Standing({ c }: { c: Candidate }) {
  if (c.ours) return <Word tone="good">ours</Word>;
  if (c.state === "not allowed" || c.verdict === "not allowed") return <Word tone="bad">not allowed</Word>;
  if (certain(c)) return <Quiet>certain</Quiet>;
  return <Quiet>{c.state === "matched" ? "matched" : "to decide"}</Quiet>;
}

const short: Record<string, string> = {
  profit_lowest: "Left at lowest",
  margin_lowest: "Margin",
  return_lowest: "Return",
  profit_leading: "Left at leading",
  price_rule: "Rule's price",
  profit_rule: "Left at rule's",
  price_aim: "Aim's price",
  above: "Aim above",
  weight: "Grams",
  ties_up: "Ties up",
  units_sold: "Sold, 30 days",
};

const head = (name: string) => {
  const words = short[name] ?? heads[name] ?? name;
  return words[0].toUpperCase() + words.slice(1);
};

/** choosable are the columns that can be shown, in the order that they are offered. */
export const choosable = [
  "supplier",
  "brand",
  "category",
  "stock",
  "landed",
  "lowest",
  "leading",
  "sellers",
  "rating",
  "rank",
  "profit_lowest",
  "margin_lowest",
  "return_lowest",
  "profit_leading",
  "price_rule",
  "profit_rule",
  "price_aim",
  "above",
  "units_sold",
  "weight",
  "ties_up",
] as const;

type Shown = (typeof choosable)[number];

const isShown = (name: string): name is Shown => (choosable as readonly string[]).includes(name);

/** usual are the columns that are shown unless others are chosen; few, where a row stands open. */
export const usual: Shown[] = [
  "supplier",
  "stock",
  "landed",
  "lowest",
  "leading",
  "sellers",
  "rating",
  "profit_lowest",
  "return_lowest",
  "above",
];
const few: Shown[] = ["lowest", "profit_lowest", "return_lowest"];

/** chosen reads the columns of an address; the usual ones where it names none. */
export function chosen(text: string): Shown[] {
  const names = text.split(",").filter(isShown);
  return names.length > 0 ? [...new Set(names)] : usual;
}

const wide: Partial<Record<Shown, string>> = {
  supplier: "104px",
  brand: "92px",
  category: "88px",
  stock: "52px",
  sellers: "58px",
  rating: "56px",
  rank: "64px",
  weight: "56px",
  units_sold: "112px",
  margin_lowest: "64px",
  return_lowest: "64px",
  landed: "70px",
  lowest: "70px",
  leading: "70px",
  above: "84px",
};

/** columns are what the list shows between its title and how its match stands. */
export function columns(currency: string, names: readonly Shown[] = few): Column<Candidate>[] {
  const shown = (c: Candidate, name: Shown) => {
    switch (name) {
      case "supplier":
      case "brand":
      case "category":
        return c[name];
      case "rating":
        return <Code color="ink">{stars(c.rating)}</Code>;
      case "margin_lowest":
      case "return_lowest":
        return <Code color="ink">{percent(c[name])}</Code>;
      case "stock":
      case "sellers":
      case "rank":
      case "units_sold":
      case "weight":
        return <Code color="ink">{c[name] ?? "–"}</Code>;
      default:
        return <Money minor={c[name]} currency={currency} sign={name.startsWith("profit")} />;
    }
  };
  return [
    {
      key: "title",
      head: "Supplier's product",
      width: "minmax(0, 1fr)",
      cell: (c) => <Pictured digest={c.picture}>{c.title}</Pictured>,
    },
    ...names.map(
      (name): Column<Candidate> => ({
        key: name,
        head: head(name),
        width: wide[name] ?? "100px",
        right: !["supplier", "brand", "category"].includes(name),
        sort: name,
        cell: (c) => shown(c, name),
      }),
    ),
    { key: "standing", head: "Match", width: "84px", cell: (c) => <Standing c={c} /> },
  ];
}

/** table is rows for a spreadsheet: tabs between cells, no cell a formula. */
export function table(rows: Candidate[], currency: string, write: (v: number, currency: string) => string): string {
  const cell = (text: string) => {
    const flat = text.replace(/[\t\r\n]+/g, " ");
    return /^[\s\p{Cf}\p{Mn}']*[=+\-@＝＋－＠]/u.test(flat) ? `'${flat}` : flat;
  };
  const amount = (v: number | null) => (v === null ? "" : write(v, currency));
  const head = [
    "supplier",
    "ref",
    "number",
    "title",
    "entry",
    `landed ${currency}`,
    "lowest",
    "leading",
    "sellers",
    "profit at lowest",
    "return at lowest",
  ];
  const lines = rows.map((c) =>
    [
      ...[c.supplier, c.ref, c.gtin, c.title, c.entry].map(cell),
      amount(c.landed),
      amount(c.lowest),
      amount(c.leading),
      c.sellers === null ? "" : String(c.sellers),
      amount(c.profit_lowest),
      c.return_lowest === null ? "" : percent(c.return_lowest).replace("−", "-"),
    ].join("\t"),
  );
  return [head.join("\t"), ...lines].join("\n");
}
