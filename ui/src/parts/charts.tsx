import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Bar, BarChart, Cell, LabelList, Line, LineChart, XAxis, YAxis } from "recharts";

// Histograms and histories, by Recharts. What a drawing shows is said in words too.

const color = (name: string) => `var(--chakra-colors-${name.replace(".", "-")})`;

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
          <XAxis
            dataKey="edge"
            interval={0}
            tickLine={false}
            axisLine={{ stroke: color("ink") }}
            tick={{ fontSize: 11, fill: color("quiet"), fontFamily: "var(--chakra-fonts-mono)" }}
          />
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

type StepsProps = { label: string; values: (number | null)[]; width: number; height: number; from?: number };

/** Steps is how one figure moved, oldest left; a gap where it was no figure. */
export function Steps({ label, values, width, height, from }: StepsProps) {
  const data = [...values, values.at(-1) ?? null].map((value, at) => ({ at, value }));
  return (
    <Drawing label={label}>
      <LineChart
        width={width}
        height={height}
        data={data}
        margin={{ top: 3, right: 0, bottom: 3, left: 0 }}
        accessibilityLayer={false}
      >
        <YAxis hide domain={[from ?? "dataMin", "dataMax"]} />
        <Line
          type="stepAfter"
          dataKey="value"
          dot={false}
          isAnimationActive={false}
          stroke={color("strip.left")}
          strokeWidth={1.75}
        />
      </LineChart>
    </Drawing>
  );
}
