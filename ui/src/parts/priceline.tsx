import { chakra } from "@chakra-ui/react";
import { useRef } from "react";
import type { Schemas } from "../api/client";
import { range, rows, steps } from "./curve";
import { money } from "./money";
import { useWidth } from "./width";

type Props = { answer: Schemas["Explained"]; onPrice: (minor: number) => void };

const color = (name: string) => `var(--chakra-colors-${name})`;
const line = 62; // where the line of money lies
const height = 108;

/** PriceLine is a line of money for one listing: what rivals ask as ticks, the
 * leading one with a flag; break-even, floor, what its rule wants, what is there
 * now, the former price; hatched where more earns less. Our mark is dragged, or
 * moved by the arrow keys; what it leaves is asked of the core. */
export function PriceLine({ answer: a, onPrice }: Props) {
  const { ref, box, width } = useWidth<HTMLDivElement>(900);
  const dragging = useRef(false);
  const totals = a.rivals.map((o) => o.item + o.delivery - a.charged);
  const [least, most] = range(a);
  const lo = Math.max(1, Math.min(least, ...totals.map((t) => t * 0.95)));
  const hi = Math.max(most, ...totals.map((t) => t * 1.04), (a.crossed ?? 0) * 1.04);
  const x = (v: number) => 14 + ((v - lo) / Math.max(1, hi - lo)) * (width - 28);
  const show = (v: number) => money(v, a.currency);
  const marks = (
    [
      [a.break_even, "break-even", "quiet"],
      [a.floor, "floor", "ink"],
      [a.rule.price !== a.price ? a.rule.price : null, "wanted", "gain"],
      [a.live !== a.price ? a.live : null, "there now", "quiet"],
      [a.crossed, "former", "quiet"],
    ] as [number | null, string, string][]
  )
    .filter((m): m is [number, string, string] => m[0] != null && m[0] >= lo && m[0] <= hi)
    .map(([price, words, tone]) => ({ price, words: `${words} ${show(price)}`, tone }))
    .sort((p, q) => p.price - q.price);
  const wide = (w: string) => w.length * 6.7;
  const placed = marks.map((m) => ({
    x: Math.max(wide(m.words) / 2 + 2, Math.min(x(m.price), width - wide(m.words) / 2 - 2)),
    width: wide(m.words),
  }));
  const level = rows(placed);
  const pick = (clientX: number) => {
    const drawn = box.current?.getBoundingClientRect();
    if (drawn) onPrice(Math.max(1, Math.round(lo + ((clientX - drawn.left - 14) / (width - 28)) * (hi - lo))));
  };
  const by = (n: number) => a.price != null && onPrice(Math.max(1, a.price + n));
  const moves: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, PageDown: -50, PageUp: 50 };
  return (
    <chakra.div
      ref={ref}
      userSelect="none"
      role="slider"
      tabIndex={0}
      aria-label={`Price on ${a.site}, ${a.currency}`}
      aria-valuemin={Math.round(lo)}
      aria-valuemax={Math.round(hi)}
      aria-valuenow={a.price ?? 0}
      aria-valuetext={a.price == null ? "no price" : show(a.price)}
      onKeyDown={(e: React.KeyboardEvent) => {
        if (!(e.key in moves)) return;
        e.preventDefault();
        by(moves[e.key]);
      }}
    >
      <svg
        width={width}
        height={height}
        style={{ display: "block", touchAction: "none" }}
        onPointerDown={(e) => {
          dragging.current = true;
          e.currentTarget.setPointerCapture(e.pointerId);
          pick(e.clientX);
        }}
        onPointerMove={(e) => dragging.current && pick(e.clientX)}
        onPointerUp={() => {
          dragging.current = false;
        }}
      >
        <title>
          {[...marks.map((m) => m.words), ...totals.map((t) => `a rival asks ${show(t)}`)].join(", ") || "no marks"}
        </title>
        {a.falls.map((f) =>
          f.to >= lo && f.from <= hi ? (
            <rect
              key={f.from}
              x={x(Math.max(lo, f.from))}
              width={Math.max(2, x(Math.min(hi, f.to)) - x(Math.max(lo, f.from)))}
              y={line - 12}
              height={24}
              fill="url(#fill-loss)"
              opacity="0.5"
            />
          ) : null,
        )}
        <line x1="8" x2={width - 8} y1={line} y2={line} stroke={color("ink")} strokeWidth="1.5" />
        {steps(lo, hi, 10).map((v) => (
          <g key={v}>
            <line x1={x(v)} x2={x(v)} y1={line} y2={line + 5} stroke={color("ink")} />
            <text
              x={x(v)}
              y={line + 18}
              fontSize="11"
              textAnchor="middle"
              fill={color("quiet")}
              fontFamily="var(--chakra-fonts-mono)"
            >
              {show(v)}
            </text>
          </g>
        ))}
        {a.rivals.map((o, i) => (
          <g key={`${o.seller}${totals[i]}`}>
            <line
              x1={x(totals[i])}
              x2={x(totals[i])}
              y1={line - 13}
              y2={line}
              stroke={color("strip-delivery")}
              strokeWidth="3"
            />
            {o.lead && <path d={`M${x(totals[i])},${line - 24}l11,5l-11,5z`} fill={color("strip-delivery")} />}
          </g>
        ))}
        {marks.map((m, i) => (
          <g key={m.words}>
            <line
              x1={x(m.price)}
              x2={x(m.price)}
              y1={16 + level[i] * 14}
              y2={line}
              stroke={color(m.tone)}
              strokeDasharray="1.5 3"
            />
            <text x={placed[i].x} y={12 + level[i] * 14} fontSize="12" textAnchor="middle" fill={color(m.tone)}>
              {m.words}
            </text>
          </g>
        ))}
        {a.price != null && (
          <>
            <circle cx={x(a.price)} cy={line} r="9" fill={color("action")} stroke={color("ground")} strokeWidth="2" />
            <text
              x={Math.max(60, Math.min(x(a.price), width - 60))}
              y={line + 38}
              fontSize="13"
              fontWeight="700"
              textAnchor="middle"
              fill={color("gain")}
            >
              ours {show(a.price)}, {a.shown}
            </text>
          </>
        )}
      </svg>
    </chakra.div>
  );
}
