import { chakra, type HTMLChakraProps } from "@chakra-ui/react";

const digits = new Map<string, number>();

/** decimals is how many decimals a currency has, by ISO 4217. */
export function decimals(currency: string): number {
  let d = digits.get(currency);
  if (d === undefined) {
    try {
      d = new Intl.NumberFormat("en", { style: "currency", currency }).resolvedOptions().maximumFractionDigits ?? 2;
    } catch {
      d = 2;
    }
    digits.set(currency, d);
  }
  return d;
}

/** money writes minor units in major units: a real minus, thin gaps between
 * thousands, never through a floating-point number. */
export function money(minor: number, currency: string): string {
  const d = decimals(currency);
  const text = String(Math.abs(minor)).padStart(d + 1, "0");
  const whole = (d ? text.slice(0, -d) : text).replace(/\B(?=(\d{3})+$)/g, "\u202f");
  return (minor < 0 ? "−" : "") + whole + (d ? `.${text.slice(-d)}` : "");
}

/** minor reads what was typed in major units; null where it is no amount of the currency. */
export function minor(text: string, currency: string): number | null {
  const d = decimals(currency);
  const m = /^(\d+)(?:\.(\d+))?$/.exec(text.trim());
  if (!m || (m[2]?.length ?? 0) > d) return null;
  return Number(m[1] + (m[2] ?? "").padEnd(d, "0"));
}

/** plain is an amount as a person types it. */
export const plain = (minor: number, currency: string) =>
  money(minor, currency)
    .replace(/\u202f/g, "")
    .replace("−", "-");

type MoneyProps = { minor?: number | null; currency: string; sign?: boolean; unit?: boolean } & HTMLChakraProps<"span">;

/** Money shows an amount; `sign` colours a loss and a gain, `unit` adds the currency. */
export function Money({ minor, currency, sign, unit, ...rest }: MoneyProps) {
  if (minor === null || minor === undefined)
    return (
      <chakra.span color="quiet" {...rest}>
        –
      </chakra.span>
    );
  const tone = sign ? (minor < 0 ? "loss" : "gain") : undefined;
  return (
    <chakra.span fontFamily="mono" whiteSpace="nowrap" color={tone} {...rest}>
      {money(minor, currency)}
      {unit && ` ${currency}`}
    </chakra.span>
  );
}
