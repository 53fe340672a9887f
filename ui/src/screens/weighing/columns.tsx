import { Code, Quiet, Word } from "../../parts/controls";
import type { Column } from "../../parts/grid";
import { Money } from "../../parts/money";
import { Pictured } from "../../parts/picture";
import type { Candidate } from "./queries";

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

/** columns are what the list shows; fewer where a row stands open beside it. */
export function columns(currency: string, narrow: boolean): Column<Candidate>[] {
  const amount = (key: keyof Candidate, head: string, width: string, sign = false): Column<Candidate> => ({
    key: String(key),
    head,
    width,
    right: true,
    sort: String(key),
    cell: (c) => <Money minor={c[key] as number | null} currency={currency} sign={sign} />,
  });
  const count = (key: "sellers" | "stock", head: string, width: string): Column<Candidate> => ({
    key,
    head,
    width,
    right: true,
    sort: key,
    cell: (c) => <Code color="ink">{c[key] ?? "–"}</Code>,
  });
  const title: Column<Candidate> = {
    key: "title",
    head: "Supplier's product",
    width: "minmax(0, 1fr)",
    cell: (c) => <Pictured digest={c.picture}>{c.title}</Pictured>,
  };
  const share: Column<Candidate> = {
    key: "return",
    head: "Return",
    width: "64px",
    right: true,
    sort: "return_lowest",
    cell: (c) => <Code color="ink">{percent(c.return_lowest)}</Code>,
  };
  const profit = amount("profit_lowest", "Left at lowest", "100px", true);
  const standing: Column<Candidate> = {
    key: "standing",
    head: "Match",
    width: "84px",
    cell: (c) => <Standing c={c} />,
  };
  if (narrow) return [title, amount("lowest", "Lowest", "70px"), profit, share, standing];
  return [
    title,
    {
      key: "supplier",
      head: "Supplier",
      width: "104px",
      sort: "supplier",
      cell: (c) => c.supplier,
    },
    count("stock", "Stock", "52px"),
    amount("landed", "Landed", "70px"),
    amount("lowest", "Lowest", "70px"),
    amount("leading", "Leading", "70px"),
    count("sellers", "Sellers", "58px"),
    {
      key: "rating",
      head: "Rating",
      width: "56px",
      right: true,
      sort: "rating",
      cell: (c) => <Code color="ink">{stars(c.rating)}</Code>,
    },
    profit,
    share,
    amount("above", "Aim above", "84px"),
    standing,
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
