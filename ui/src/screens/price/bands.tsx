import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { Quiet, Word } from "../../parts/controls";

export type Written = Schemas["Schedule"];
export type Fee = Written["fees"][number];

export const bases: Record<string, string> = {
  item: "of the item price",
  total: "of item and delivery",
  "total+tax": "of all the buyer pays, tax too",
};

const share = (rate: string) => Number.parseFloat(rate); // for the height of a drawing only

/** FeeDrawn is one fee as a person reads it: its rate, or its bands as steps. */
export function FeeDrawn({ fee, changed }: { fee: Fee; changed?: boolean }) {
  const bands = fee.bands ?? [];
  const most = Math.max(1, ...bands.map((b) => share(b.rate)));
  const also = [
    fee.fixed && `${fee.fixed} each`,
    fee.least && `at least ${fee.least}`,
    fee.most && `at most ${fee.most}`,
    fee.tax && `with ${fee.tax} tax that we can't reclaim`,
  ].filter(Boolean);
  return (
    <chakra.div py="2" px="2" mx="-2" rounded="4px" bg={changed ? "tint" : undefined}>
      <chakra.div display="flex" columnGap="2" alignItems="baseline" flexWrap="wrap">
        <chakra.span fontWeight="600" whiteSpace="nowrap">
          {fee.name}
        </chakra.span>
        {changed && <Word>changed</Word>}
        {bands.length === 0 && fee.rate !== "0%" && (
          <>
            <chakra.span fontFamily="mono">{fee.rate}</chakra.span>
            <Quiet>{bases[fee.of]}</Quiet>
          </>
        )}
        {bands.length > 0 && (
          <Quiet>
            {fee.banding === "slices" ? "each slice at its own rate, " : "all of it at the rate it falls in, "}
            {bases[fee.of]}
          </Quiet>
        )}
      </chakra.div>
      {bands.length > 0 && (
        <chakra.div
          display="flex"
          gap="2px"
          alignItems="flex-end"
          h="66px"
          mt="1"
          role="img"
          aria-label={bandWords(fee)}
        >
          {bands.map((b) => (
            <chakra.div key={b.to ?? "last"} flex="1" display="flex" flexDirection="column" justifyContent="flex-end">
              <chakra.span fontFamily="mono" fontSize="12px" textAlign="center">
                {b.rate}
                {b.fixed ? ` + ${b.fixed}` : ""}
              </chakra.span>
              <chakra.div
                style={{ height: `${Math.max(3, (share(b.rate) / most) * 30)}px`, backgroundImage: hatch }}
                borderTopWidth="2px"
                borderColor="strip.fees"
              />
              <chakra.span
                fontSize="11px"
                color="quiet"
                fontFamily="mono"
                textAlign="right"
                borderRightWidth={b.to ? "1px" : 0}
                borderColor="quiet"
                pr="1"
              >
                {b.to ? `to ${b.to}` : "above"}
              </chakra.span>
            </chakra.div>
          ))}
        </chakra.div>
      )}
      {also.length > 0 && <div>{also.join(", ")}</div>}
    </chakra.div>
  );
}

const hatch = "repeating-linear-gradient(45deg, var(--chakra-colors-strip-fees) 0 3px, transparent 3px 6px)";

const bandWords = (fee: Fee) =>
  (fee.bands ?? [])
    .map((b) => `${b.rate}${b.fixed ? ` and ${b.fixed}` : ""} ${b.to ? `up to ${b.to}` : "above"}`)
    .join(", ");

/** WarehouseDrawn is what the marketplace's warehouse takes, step by step. */
export function WarehouseDrawn({ of: w }: { of: NonNullable<Written["warehouse"]> }) {
  const bounds = (s: (typeof w.steps)[number]) => {
    const sides = [s.longest, s.median, s.shortest].map((v) => v || "any").join(" × ");
    const all = [
      sides !== "any × any × any" && `${sides.replace(/( × any)+$/, "")} mm`,
      s.girth && `${s.girth} mm around`,
      s.weight && `${s.weight} g`,
    ].filter(Boolean);
    return all.length ? `up to ${all.join(", ")}` : "anything else";
  };
  return (
    <chakra.div py="2">
      <chakra.span fontWeight="600">{w.name}</chakra.span> <Quiet>where its warehouse keeps and sends</Quiet>
      <chakra.table w="100%" fontSize="12.5px" mt="1">
        <tbody>
          {w.steps.map((s) => (
            <chakra.tr key={s.name} borderTopWidth="1px" borderColor="hair">
              <chakra.td py="0.5" pr="2">
                {s.name}
              </chakra.td>
              <chakra.td color="quiet" pr="2">
                {bounds(s)}
              </chakra.td>
              <chakra.td textAlign="right" fontFamily="mono">
                {s.fee}
              </chakra.td>
              <chakra.td pl="2" color="quiet">
                {s.half_kilo && `and ${s.half_kilo} per ½ kg over ${s.over ?? 0} g`}
              </chakra.td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </chakra.div>
  );
}
