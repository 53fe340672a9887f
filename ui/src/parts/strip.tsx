import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Money, money } from "./money";

export type Part = { key: "cost" | "delivery" | "fees" | "tax" | "left"; label: string; amount: number };

export type StripFigures = {
  price?: number | null;
  landed?: number | null;
  outbound?: number | null;
  fees?: number | null;
  tax?: number | null;
  profit?: number | null;
  break_even?: number | null;
  floor?: number | null;
};

type Answered = {
  price: number | null;
  profit: number | null;
  landed: number;
  split: { delivery: number; fees: number; tax: number } | null;
  break_even: number | null;
  floor: number | null;
};

/** figures are the parts of a price that the server has worked out. */
export const figures = (x: Answered): StripFigures => ({
  price: x.price,
  landed: x.landed,
  outbound: x.split?.delivery,
  fees: x.split?.fees,
  tax: x.split?.tax,
  profit: x.profit,
  break_even: x.break_even,
  floor: x.floor,
});

/** parts splits a price, in the order they stand in the bar. They add up to the price. */
export function parts(f: StripFigures): Part[] {
  if (f.price == null || f.landed == null || f.profit == null) return [];
  return [
    { key: "cost", label: "cost", amount: f.landed },
    { key: "delivery", label: "delivery", amount: f.outbound ?? 0 },
    { key: "fees", label: "fees", amount: f.fees ?? 0 },
    { key: "tax", label: "tax", amount: f.tax ?? 0 },
    { key: "left", label: f.profit < 0 ? "lost" : "left", amount: f.profit },
  ];
}

/** StripFills are the patterns that parts differ by besides hue; once a page. */
export function StripFills() {
  const c = (name: string) => `var(--chakra-colors-strip-${name})`;
  return (
    <svg width="0" height="0" style={{ position: "absolute" }} aria-hidden="true">
      <title>fills</title>
      <defs>
        <pattern id="fill-delivery" width="4" height="4" patternUnits="userSpaceOnUse">
          <rect width="4" height="4" fill={c("ground")} />
          <rect width="2.2" height="4" fill={c("delivery")} />
        </pattern>
        <pattern id="fill-fees" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill={c("ground")} />
          <rect width="3" height="6" fill={c("fees")} />
        </pattern>
        <pattern id="fill-tax" width="4" height="4" patternUnits="userSpaceOnUse">
          <rect width="4" height="4" fill={c("ground")} />
          <circle cx="2" cy="2" r="1.25" fill={c("tax")} />
        </pattern>
        <pattern id="fill-loss" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <rect width="5" height="5" fill={c("ground")} />
          <rect width="2.5" height="5" fill={c("loss")} />
        </pattern>
      </defs>
    </svg>
  );
}

const fills: Record<Part["key"], string> = {
  cost: "var(--chakra-colors-strip-cost)",
  delivery: "url(#fill-delivery)",
  fees: "url(#fill-fees)",
  tax: "url(#fill-tax)",
  left: "var(--chakra-colors-strip-left)",
};

const sizes = {
  row: { w: 220, h: 16, drop: 6 },
  page: { w: 360, h: 24, drop: 8 },
  large: { w: 1000, h: 40, drop: 12 },
};

type StripProps = { figures: StripFigures; currency: string; size?: keyof typeof sizes };

/** MarginStrip is one price, to scale: cost, delivery, fees, tax, what is left.
 * A notch marks break-even and a second the floor; a loss hangs below the base
 * line, past the end of the price. */
export function MarginStrip({ figures, currency, size = "row" }: StripProps) {
  const list = parts(figures);
  const { w, h, drop } = sizes[size];
  if (!list.length || !figures.price) return <chakra.span color="quiet">no price</chakra.span>;
  const price = figures.price;
  const loss = Math.max(0, -(figures.profit ?? 0));
  const scale = w / (price + loss);
  const words = list.map((p) => `${p.label} ${money(Math.abs(p.amount), currency)}`).join(", ");
  let x = 0;
  const bars = list
    .filter((p) => p.key !== "left" || p.amount > 0)
    .map((p) => {
      const width = Math.max(0, p.amount) * scale;
      const from = x;
      x += width;
      return { ...p, from, width };
    });
  const notch = (v: number | null | undefined, key: string, dash?: string) =>
    v != null && v > 0 && v <= price ? (
      <line
        key={key}
        x1={v * scale}
        x2={v * scale}
        y1={-3}
        y2={h + 3}
        stroke="var(--chakra-colors-ink)"
        strokeWidth="1.5"
        strokeDasharray={dash}
      />
    ) : null;
  return (
    <svg
      role="img"
      aria-label={`${money(price, currency)} ${currency}: ${words}`}
      viewBox={`0 -4 ${w} ${h + drop + 6}`}
      width={size === "large" ? "100%" : w}
      height={size === "large" ? h + drop + 6 : undefined}
      preserveAspectRatio="none"
      style={{ display: "block", maxWidth: "100%" }}
    >
      <title>{words}</title>
      {bars.map((b) => (
        <rect key={b.key} x={b.from} y={0} width={b.width} height={h} fill={fills[b.key]} />
      ))}
      {loss > 0 && (
        <>
          <rect
            x={price * scale}
            y={h}
            width={loss * scale}
            height={drop}
            fill="url(#fill-loss)"
            stroke="var(--chakra-colors-strip-loss)"
          />
          <line
            x1={price * scale}
            x2={price * scale}
            y1={-4}
            y2={h + drop}
            stroke="var(--chakra-colors-ink)"
            strokeWidth="2"
          />
        </>
      )}
      {size !== "row" && notch(figures.break_even, "even")}
      {size !== "row" && notch(figures.floor, "floor", "3 2")}
    </svg>
  );
}

type Line = { kind: string; name: string; amount: number; part?: string };

type OpenedProps = {
  figures: StripFigures;
  currency: string;
  lines: Line[];
  wide?: boolean; // over a whole page, its lines folded away
};

/** Opened is a strip at page size with its labels; a part, pointed at or
 * reached by keyboard, marks the lines that made it. */
export function Opened({ figures, currency, lines, wide }: OpenedProps) {
  const [on, setOn] = useState<string | null>(null);
  return (
    <div>
      <MarginStrip figures={figures} currency={currency} size={wide ? "large" : "page"} />
      <chakra.div display="flex" flexWrap="wrap" gap="1" mt="1" mb={wide ? "0" : "3"} fontSize="12px">
        {parts(figures).map((p) => (
          <chakra.button
            key={p.key}
            type="button"
            px="1.5"
            minH="24px"
            rounded="3px"
            bg={on === p.key ? "tint" : "transparent"}
            color={p.key === "left" ? (p.amount < 0 ? "loss" : "gain") : "ink"}
            fontWeight={p.key === "left" ? "700" : "400"}
            onMouseEnter={() => setOn(p.key)}
            onMouseLeave={() => setOn(null)}
            onFocus={() => setOn(p.key)}
            onBlur={() => setOn(null)}
          >
            {p.label} <Money minor={Math.abs(p.amount)} currency={currency} />
          </chakra.button>
        ))}
      </chakra.div>
      {wide ? (
        <chakra.details maxW="460px">
          <chakra.summary cursor="pointer" color="quiet" fontSize="12.5px">
            line by line
          </chakra.summary>
          <Lines lines={lines} left={figures.profit ?? 0} currency={currency} mark={on} />
        </chakra.details>
      ) : (
        <Lines lines={lines} left={figures.profit ?? 0} currency={currency} mark={on} />
      )}
    </div>
  );
}

type LinesProps = { lines: Line[]; left: number; currency: string; mark?: string | null };

/** Lines is a quote: every line, adding up to what is left. */
export function Lines({ lines, left, currency, mark }: LinesProps) {
  return (
    <chakra.table w="100%" data-testid="lines">
      <tbody>
        {lines.map((l) => (
          <chakra.tr key={l.kind + l.name} bg={mark && l.part === mark ? "tint" : undefined}>
            <chakra.td py="0.5">{l.name}</chakra.td>
            <chakra.td textAlign="right">
              <Money minor={l.amount} currency={currency} />
            </chakra.td>
          </chakra.tr>
        ))}
        <chakra.tr borderTopWidth="1px" borderColor="ink" bg={mark === "left" ? "tint" : undefined}>
          <chakra.td py="1" fontWeight="700">
            {left < 0 ? "lost on every sale" : "left for you"}
          </chakra.td>
          <chakra.td textAlign="right" fontWeight="700">
            <Money minor={left} currency={currency} sign unit />
          </chakra.td>
        </chakra.tr>
      </tbody>
    </chakra.table>
  );
}
