import type { Listing } from "../api/queries";
import { Code, Quiet, Word } from "./controls";
import type { Column } from "./grid";
import { Money } from "./money";
import { Pictured } from "./picture";
import { MarginStrip } from "./strip";

/** tone is how a listing's state is marked, besides its word. */
export const tone = (state: string) =>
  state === "refused" || state === "unknown" ? "bad" : state === "live" ? "good" : undefined;

// Columns that lists of listings share, so that a thing looks the same wherever it stands.
export const column: Record<
  "title" | "site" | "sku" | "landed" | "strip" | "price" | "left" | "stock" | "quantity" | "state" | "why",
  Column<Listing>
> = {
  title: {
    key: "title",
    head: "Product",
    width: "minmax(180px, 1fr)",
    sort: "title",
    cell: (l) => <Pictured digest={l.picture}>{l.title}</Pictured>,
  },
  site: { key: "site", head: "Site", width: "112px", cell: (l) => <Quiet>{l.site}</Quiet> },
  sku: { key: "sku", head: "SKU", width: "84px", sort: "sku", cell: (l) => <Code>{l.sku}</Code> },
  landed: {
    key: "landed",
    head: "Landed cost",
    width: "104px",
    right: true,
    sort: "landed",
    cell: (l) => <Money minor={l.landed} currency={l.currency} unit color="quiet" />,
  },
  strip: {
    key: "strip",
    head: "Where the price goes",
    width: "minmax(138px, 0.45fr)",
    cell: (l) => <MarginStrip figures={l} currency={l.currency} />,
  },
  price: {
    key: "price",
    head: "Price",
    width: "96px",
    right: true,
    sort: "price",
    cell: (l) => <Money minor={l.price} currency={l.currency} unit fontWeight="600" />,
  },
  left: {
    key: "left",
    head: "Left",
    width: "70px",
    right: true,
    sort: "profit",
    cell: (l) => <Money minor={l.profit} currency={l.currency} sign fontWeight="600" />,
  },
  stock: {
    key: "stock",
    head: "Stock there",
    width: "80px",
    right: true,
    sort: "stock",
    cell: (l) =>
      l.gone ? (
        <Quiet>gone</Quiet>
      ) : l.stock_state === "known" ? (
        <Code>{l.stock}</Code>
      ) : (
        <Quiet>{l.stock_state || "–"}</Quiet>
      ),
  },
  quantity: {
    key: "quantity",
    head: "Offered",
    width: "64px",
    right: true,
    sort: "quantity",
    cell: (l) => <Code color="ink">{l.quantity}</Code>,
  },
  state: {
    key: "state",
    head: "State",
    width: "80px",
    sort: "state",
    cell: (l) => <Word tone={tone(l.state)}>{l.state}</Word>,
  },
  why: {
    key: "why",
    head: "Why",
    width: "minmax(120px, 0.7fr)",
    cell: (l) => <Quiet fontSize="12.5px">{l.says}</Quiet>,
  },
};
