import { chakra } from "@chakra-ui/react";
import { useId, useRef } from "react";
import type { Schemas } from "../api/client";
import { money } from "./money";
import { useWidth } from "./width";

type Answer = Schemas["BenchAnswer"];
type CurveProps = { answer: Answer; onPrice: (minor: number) => void };

const top = 50; // room for labels above
const height = 226;
const foot = 34; // the line of prices and its rivals

const color = (name: string) => `var(--chakra-colors-${name})`;

/** range is the prices worth seeing: around all that is marked, from well under the least of it. */
export function range(a: Answer): [number, number] {
  const marks = [a.price, a.break_even, a.floor, a.rule.price, a.live].filter((v): v is number => v != null);
  const hi = a.curve.at(-1)?.price ?? 1;
  const lo = marks.length ? Math.floor(Math.min(...marks) * 0.72) : 1;
  return [Math.max(1, Math.min(lo, hi - 10)), hi];
}

/** at is the drawn profit at a price: on the line between two points. For drawing only. */
function at(points: Answer["curve"], price: number): number {
  const i = points.findIndex((p) => p.price >= price);
  if (i < 0) return points.at(-1)?.profit ?? 0;
  if (i === 0 || points[i].price === price) return points[i].profit;
  const [a, b] = [points[i - 1], points[i]];
  return a.profit + ((b.profit - a.profit) * (price - a.price)) / (b.price - a.price);
}

/** steps are round figures for a line of prices, as many as there is room for. */
export function steps(lo: number, hi: number, most = 8): number[] {
  let by = 1;
  for (let i = 0; (hi - lo) / by > most; i++) by = [1, 2, 5][i % 3] * 10 ** Math.floor(i / 3);
  const out = [];
  for (let v = Math.ceil(lo / by) * by; v <= hi; v += by) out.push(v);
  return out;
}

type Mark = { price: number; words: string; tone?: string };

/** rows puts labels on as few rows as keep them apart. */
export function rows(marks: { x: number; width: number }[]): number[] {
  const ends: number[] = [];
  return marks.map((m) => {
    let row = ends.findIndex((end) => m.x - m.width / 2 > end + 6);
    if (row < 0) row = ends.length < 4 ? ends.length : 3;
    ends[row] = m.x + m.width / 2;
    return row;
  });
}

/** ProfitCurve draws what is left against the price, over a line of prices with
 * rivals' totals as ticks. Where more costs less is hatched. Our mark can be
 * dragged, or moved by the arrow keys; what it leaves is asked of the core. */
export function ProfitCurve({ answer: a, onPrice }: CurveProps) {
  const { ref, box, width } = useWidth<HTMLDivElement>(860);
  const clip = useId();
  const drags = useRef(false);
  const [lo, hi] = range(a);
  const points = [{ price: lo, profit: at(a.curve, lo) }, ...a.curve.filter((p) => p.price > lo && p.price <= hi)];
  const most = Math.max(1, ...points.map((p) => p.profit));
  const least = Math.min(0, ...points.map((p) => p.profit));
  const bottom = height - foot;
  const x = (price: number) => 8 + ((price - lo) / Math.max(1, hi - lo)) * (width - 16);
  const y = (profit: number) => top + ((most - profit) / Math.max(1, most - least)) * (bottom - top - 6);
  const line = points.map((p, i) => `${i ? "L" : "M"}${x(p.price).toFixed(1)},${y(p.profit).toFixed(1)}`).join("");
  const area = `${line}L${x(hi)},${y(0)}L${x(lo)},${y(0)}Z`;
  const show = (v: number) => money(v, a.currency);
  const marks: Mark[] = [];
  const mark = (price: number | null, words: string, tone?: string) => {
    if (price != null && price >= lo && price <= hi) marks.push({ price, words: `${words} ${show(price)}`, tone });
  };
  mark(a.break_even, "break-even");
  mark(a.floor, "floor");
  if (a.rule.price !== a.price) mark(a.rule.price, "by the rule", "gain");
  if (a.live !== a.price) mark(a.live, "live now");
  marks.sort((p, q) => p.price - q.price);
  const wide = (m: Mark) => m.words.length * 6.6;
  const placed = marks.map((m) => ({
    x: Math.max(wide(m) / 2 + 2, Math.min(x(m.price), width - wide(m) / 2 - 2)),
    width: wide(m),
  }));
  const level = rows(placed);
  const pick = (clientX: number) => {
    const drawn = box.current?.getBoundingClientRect();
    if (!drawn) return;
    const share = (clientX - drawn.left - 8) / (width - 16);
    onPrice(Math.max(1, Math.round(lo + share * (hi - lo))));
  };
  const fall = a.falls.find((f) => f.to >= lo && f.from <= hi);
  return (
    <chakra.div ref={ref} position="relative" userSelect="none">
      <svg
        width={width}
        height={height}
        role="group"
        aria-label="What is left, against the price"
        style={{ display: "block", touchAction: "none" }}
        onPointerDown={(e) => {
          drags.current = true;
          e.currentTarget.setPointerCapture(e.pointerId);
          pick(e.clientX);
        }}
        onPointerMove={(e) => drags.current && pick(e.clientX)}
        onPointerUp={() => {
          drags.current = false;
        }}
      >
        <title>What is left, against the price</title>
        <clipPath id={`${clip}a`}>
          <rect x="0" y={top - 4} width={width} height={y(0) - top + 4} />
        </clipPath>
        <clipPath id={`${clip}b`}>
          <rect x="0" y={y(0)} width={width} height={Math.max(0, bottom - y(0) + 6)} />
        </clipPath>
        <path d={area} fill={color("tint")} clipPath={`url(#${clip}a)`} />
        <path d={area} fill={color("warn")} clipPath={`url(#${clip}b)`} />
        {a.falls.map((f) =>
          f.to >= lo && f.from <= hi ? (
            <rect
              key={f.from}
              x={x(Math.max(lo, f.from))}
              width={Math.max(2, x(Math.min(hi, f.to)) - x(Math.max(lo, f.from)))}
              y={top}
              height={bottom - top}
              fill="url(#fill-loss)"
              opacity="0.4"
            />
          ) : null,
        )}
        <path d={line} fill="none" stroke={color("ink")} strokeWidth="1.6" />
        <line x1="0" x2={width} y1={y(0)} y2={y(0)} stroke={color("quiet")} strokeDasharray="2 3" />
        <text x="2" y={y(0) - 4} fontSize="11" fill={color("quiet")}>
          nothing left
        </text>
        {marks.map((m, i) => (
          <g key={m.words}>
            <line
              x1={x(m.price)}
              x2={x(m.price)}
              y1={14 + level[i] * 15}
              y2={bottom}
              stroke={color(m.tone ?? "quiet")}
              strokeDasharray="1.5 3"
            />
            <text
              x={placed[i].x}
              y={11 + level[i] * 15}
              fontSize="12"
              textAnchor="middle"
              fill={color(m.tone ?? "ink")}
            >
              {m.words}
            </text>
          </g>
        ))}
        <line x1="0" x2={width} y1={bottom} y2={bottom} stroke={color("ink")} strokeWidth="1.3" />
        {steps(lo, hi, Math.min(8, Math.max(2, Math.floor(width / 62)))).map((v) => (
          <g key={v}>
            <line x1={x(v)} x2={x(v)} y1={bottom} y2={bottom + 4} stroke={color("ink")} />
            <text
              x={Math.max(show(v).length * 3.6, Math.min(x(v), width - show(v).length * 3.6))}
              y={bottom + 17}
              fontSize="11"
              textAnchor="middle"
              fill={color("quiet")}
              fontFamily="var(--chakra-fonts-mono)"
            >
              {show(v)}
            </text>
          </g>
        ))}
        {a.rivals.map((o, i) => {
          const p = o.item + o.delivery - a.charged;
          if (o.ours || p < lo || p > hi) return null;
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: two sellers may ask the same
            <g key={i}>
              <title>{`${o.seller}: ${show(o.item)} and ${show(o.delivery)} delivery${o.lead ? ", leading" : ""}`}</title>
              <line x1={x(p)} x2={x(p)} y1={bottom - 13} y2={bottom} stroke={color("strip-delivery")} strokeWidth="3" />
              {o.lead && <path d={`M${x(p) + 1},${bottom - 26}l9,4.5l-9,4.5z`} fill={color("strip-delivery")} />}
              {o.lead && (
                <line x1={x(p)} x2={x(p)} y1={bottom - 26} y2={bottom - 12} stroke={color("strip-delivery")} />
              )}
            </g>
          );
        })}
        {a.price != null && a.profit != null && (
          <>
            <line
              x1={x(a.price)}
              x2={x(a.price)}
              y1={y(a.profit)}
              y2={bottom}
              stroke={color("ink")}
              strokeWidth="1.2"
            />
            <text
              x={Math.max(60, Math.min(x(a.price), width - 70))}
              y={y(a.profit) - 14}
              fontSize="12.5"
              fontWeight="700"
              stroke={color("ground")}
              strokeWidth="4"
              paintOrder="stroke"
              textAnchor="middle"
              fill={color(a.profit < 0 ? "loss" : "gain")}
            >
              {`${show(a.price)} leaves ${show(a.profit)}`}
            </text>
            <circle
              cx={x(a.price)}
              cy={y(a.profit)}
              r="7"
              fill={color(a.profit < 0 ? "loss" : "gain")}
              stroke={color("panel")}
              strokeWidth="2"
              tabIndex={0}
              role="slider"
              aria-label="Our price"
              aria-valuemin={lo}
              aria-valuemax={hi}
              aria-valuenow={a.price}
              aria-valuetext={`${show(a.price)} ${a.currency} leaves ${show(a.profit)}`}
              style={{ cursor: "ew-resize" }}
              onKeyDown={(e) => {
                const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 100, PageDown: -100 }[
                  e.key
                ];
                if (!by || a.price == null) return;
                e.preventDefault();
                e.stopPropagation();
                onPrice(Math.max(1, a.price + by));
              }}
            />
          </>
        )}
      </svg>
      {fall && (
        <chakra.div color="loss" fontSize="12.5px">
          {show(fall.from)} to {show(fall.to)} earns less than {show(fall.best)}: up to {show(fall.less)} less.
        </chakra.div>
      )}
    </chakra.div>
  );
}
