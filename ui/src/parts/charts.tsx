import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Bar, BarChart, CartesianGrid, Cell, LabelList, Line, LineChart, ReferenceLine, XAxis, YAxis } from "recharts";
import { at } from "./when";

// Histograms and histories, by Recharts. What a drawing shows is said in words too.

const color = (name: string) => `var(--chakra-colors-${name.replace(".", "-")})`;

const tick = { fontSize: 11, fill: color("quiet"), fontFamily: "var(--chakra-fonts-mono)" };

type Figure = { label: string; children: ReactNode };

function Drawing({ label, children }: Figure) {
  return (
    <chakra.div role="img" aria-label={label} css={{ "& *": { outline: "none" } }}>
      <div aria-hidden="true">{children}</div>
    </chakra.div>
  );
}

export type Bin = { name: string; edge: string; count: number; tone?: string; hollow?: boolean };

type BarsProps = { label: string; bins: Bin[]; width: number; height: number; figures?: boolean };

/** Bars is a histogram: a bar for each bin, with its count above and its edge below where there is room for them. */
export function Bars({ label, bins, width, height, figures }: BarsProps) {
  return (
    <Drawing label={`${label}: ${bins.map((b) => `${b.name} ${b.count}`).join(", ")}`}>
      <BarChart
        width={width}
        height={height}
        data={bins}
        barCategoryGap={1}
        margin={{ top: figures ? 16 : 1, right: 0, bottom: 0, left: 0 }}
        accessibilityLayer={false}
      >
        {figures && (
          <XAxis dataKey="edge" interval={0} tickLine={false} axisLine={{ stroke: color("ink") }} tick={tick} />
        )}
        <YAxis hide domain={[0, "dataMax"]} />
        <Bar dataKey="count" isAnimationActive={false} minPointSize={(v) => (v ? 2 : 0)}>
          {bins.map((b) => (
            <Cell
              key={b.name}
              fill={b.hollow ? "none" : color(b.tone ?? "strip.cost")}
              stroke={b.hollow ? color(b.tone ?? "loss") : undefined}
            />
          ))}
          {figures && (
            <LabelList
              dataKey="count"
              position="top"
              formatter={(n: unknown) => (n ? String(n) : "")}
              style={{ fontSize: 11, fill: color("ink"), fontFamily: "var(--chakra-fonts-mono)" }}
            />
          )}
        </Bar>
      </BarChart>
    </Drawing>
  );
}

export type Swing = { key: string; name: string; value: number };

type SwingsProps = {
  label: string;
  bars: Swing[];
  show: (value: number) => string; // a figure, as people write it
  width: number;
  height: number;
};

/** Swings are amounts one after another, oldest left: what is below nothing hangs below the line. */
export function Swings({ label, bars, show, width, height }: SwingsProps) {
  const said = bars.filter((b) => b.value !== 0).map((b) => `${b.name} ${show(b.value)}`);
  return (
    <Drawing label={`${label}: ${said.join(", ") || "nothing"}`}>
      <BarChart
        width={width}
        height={height}
        data={bars}
        barCategoryGap={bars.length > 120 ? 0 : 2}
        margin={{ top: 6, right: 0, bottom: 0, left: 0 }}
        accessibilityLayer={false}
      >
        <CartesianGrid vertical={false} stroke={color("hair")} />
        <XAxis
          dataKey="name"
          tick={tick}
          tickLine={false}
          axisLine={false}
          minTickGap={40}
          interval="equidistantPreserveStart"
        />
        <YAxis
          tick={tick}
          tickLine={false}
          axisLine={false}
          width={66}
          tickCount={4}
          interval={0}
          tickFormatter={(v: number) => show(Math.round(v))}
        />
        <ReferenceLine y={0} stroke={color("ink")} />
        <Bar dataKey="value" isAnimationActive={false} maxBarSize={56} minPointSize={(v) => (v ? 2 : 0)}>
          {bars.map((b) => (
            <Cell key={b.key} fill={color(b.value < 0 ? "strip.loss" : "strip.left")} />
          ))}
        </Bar>
      </BarChart>
    </Drawing>
  );
}

export type Moment = { at: string; value: number | null };

type StepsProps = {
  label: string;
  points: Moment[]; // each value holds from its moment on; null where it was no figure
  until: string; // the moment up to which the last one holds
  width: number;
  height: number;
  from?: number; // where the scale begins; the least value unless given
  second?: Moment[]; // another figure on the same scale, drawn thinner
};

const line = { type: "stepAfter", dot: false, isAnimationActive: false } as const;

/** Steps is how a figure moved through time, oldest left. The days at its ends stand below it. */
export function Steps({ label, points, until, width, height, from, second = [] }: StepsProps) {
  const first = points[0]?.at ?? until;
  const data = stepped(points, second, until);
  return (
    <Drawing label={label}>
      <LineChart
        width={width}
        height={height}
        data={data}
        margin={{ top: 3, right: 0, bottom: 3, left: 0 }}
        accessibilityLayer={false}
      >
        <XAxis hide type="number" dataKey="at" domain={["dataMin", "dataMax"]} />
        <YAxis hide domain={[from ?? "dataMin", "dataMax"]} />
        {second.length > 0 && (
          <Line {...line} dataKey="second" stroke={color("strip.cost")} strokeWidth={1.25} strokeDasharray="3 2" />
        )}
        <Line {...line} dataKey="value" stroke={color("strip.left")} strokeWidth={1.75} />
      </LineChart>
      <chakra.div display="flex" justifyContent="space-between" color="quiet" fontSize="11px">
        <span>{at(first, { day: "numeric", month: "short" })}</span>
        <span>{at(until, { day: "numeric", month: "short" })}</span>
      </chakra.div>
    </Drawing>
  );
}

/** stepped puts two figures onto one line of time: each holds until its next moment. */
export function stepped(points: Moment[], second: Moment[], until: string) {
  const ms = (iso: string) => new Date(iso).getTime();
  const times = [...new Set([...points, ...second, { at: until }].map((p) => ms(p.at)))].sort((a, b) => a - b);
  const held = (list: Moment[], t: number) => list.findLast((p) => ms(p.at) <= t)?.value ?? null;
  return times.map((t) => ({ at: t, value: held(points, t), second: held(second, t) }));
}

export type Curve = {
  name: string;
  tone: string; // a token
  dash?: string;
  width?: number;
  points: Moment[];
};

type CourseProps = {
  label: string;
  curves: Curve[];
  until: string;
  width: number;
  height: number;
  show: (value: number) => string; // a figure of the scale, as people write it
  from?: number;
};

/** Course is how several figures of one scale moved through time, oldest left.
 * Each differs by its stroke as well as by its hue, and is named below. */
export function Course({ label, curves, until, width, height, show, from }: CourseProps) {
  const drawn = curves.filter((c) => c.points.some((p) => p.value !== null));
  const ms = (iso: string) => new Date(iso).getTime();
  const times = [...new Set([...drawn.flatMap((c) => c.points), { at: until, value: null }].map((p) => ms(p.at)))].sort(
    (a, b) => a - b,
  );
  const next = drawn.map(() => 0);
  const data = times.map((t) => {
    const row: Record<string, number | null> = { at: t };
    drawn.forEach((c, i) => {
      while (next[i] < c.points.length && ms(c.points[next[i]].at) <= t) next[i]++;
      row[c.name] = next[i] ? c.points[next[i] - 1].value : null;
    });
    return row;
  });
  return (
    <Drawing label={label}>
      <LineChart
        width={width}
        height={height}
        data={data}
        margin={{ top: 6, right: 8, bottom: 0, left: 0 }}
        accessibilityLayer={false}
      >
        <CartesianGrid vertical={false} stroke={color("hair")} />
        <XAxis
          type="number"
          dataKey="at"
          domain={["dataMin", "dataMax"]}
          tick={tick}
          tickLine={false}
          axisLine={{ stroke: color("hair") }}
          tickFormatter={(t: number) => at(new Date(t).toISOString(), { day: "numeric", month: "short" })}
          minTickGap={60}
        />
        <YAxis
          domain={[from ?? "auto", "auto"]}
          tick={tick}
          tickLine={false}
          axisLine={false}
          width={58}
          tickFormatter={(v: number) => show(Math.round(v))}
        />
        {drawn.map((c) => (
          <Line
            key={c.name}
            {...line}
            dataKey={c.name}
            stroke={color(c.tone)}
            strokeWidth={c.width ?? 1.5}
            strokeDasharray={c.dash}
          />
        ))}
      </LineChart>
      <chakra.div display="flex" flexWrap="wrap" columnGap="5" rowGap="1" pl="58px" fontSize="12px">
        {drawn.map((c) => (
          <chakra.span key={c.name} display="flex" gap="2" alignItems="center">
            <svg width="26" height="8" aria-hidden="true">
              <line
                x1="0"
                x2="26"
                y1="4"
                y2="4"
                stroke={color(c.tone)}
                strokeWidth={c.width ?? 1.5}
                strokeDasharray={c.dash}
              />
            </svg>
            {c.name}
          </chakra.span>
        ))}
      </chakra.div>
    </Drawing>
  );
}
