import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { Swings } from "../../parts/charts";
import { money } from "../../parts/money";
import { at, shifted } from "../../parts/when";
import { useWidth } from "../../parts/width";

type Row = Schemas["EarnedRow"];

// More bars than this can't be told apart.
const most = 400;

/** times are all days or months of a time, those too on which nothing was sold. */
export function times(by: "day" | "month", from: string, to: string): string[] {
  const out: string[] = [];
  for (let d = from; d <= to && out.length < most * 31; d = shifted(d, 1)) {
    const key = by === "day" ? d : d.slice(0, 7);
    if (out.at(-1) !== key) out.push(key);
    if (shifted(d, 1) === d) break; // no day
  }
  return out;
}

type Props = { by: "day" | "month"; from: string; to: string; rows: Row[]; currency: string };

/** OverTime draws what was left of each day or month: a loss hangs below the line. */
export function OverTime({ by, from, to, rows, currency }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(900);
  const left = new Map(rows.map((r) => [r.key, r.left]));
  const keys = times(by, from, to);
  const words = (key: string) =>
    by === "day"
      ? at(`${key}T00:00:00Z`, { day: "numeric", month: "short" })
      : at(`${key}-01T00:00:00Z`, { month: "short", year: "numeric" });
  return (
    <chakra.div ref={ref} pb="1">
      {keys.length > 1 && keys.length <= most && (
        <Swings
          label={`Left by ${by}, ${currency}`}
          bars={keys.map((key) => ({ key, name: words(key), value: left.get(key) ?? 0 }))}
          show={(v) => money(v, currency)}
          width={width}
          height={116}
        />
      )}
    </chakra.div>
  );
}
