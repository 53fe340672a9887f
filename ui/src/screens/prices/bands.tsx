import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { Quiet, Word } from "../../parts/controls";

const hatch = "repeating-linear-gradient(45deg, var(--chakra-colors-strip-fees) 0 3px, transparent 3px 6px)";

/** FeeDrawn is one fee as a person reads it: its rate, or its bands as steps. */
export function FeeDrawn({ fee }: { fee: Schemas["FeeShown"] }) {
  return (
    <chakra.div py="2" px="2" mx="-2" rounded="4px" bg={fee.changed ? "tint" : undefined}>
      <chakra.div display="flex" columnGap="2" alignItems="baseline" flexWrap="wrap">
        <chakra.span fontWeight="600" whiteSpace="nowrap">
          {fee.name}
        </chakra.span>
        {fee.changed && <Word>changed</Word>}
        {fee.rate && <chakra.span fontFamily="mono">{fee.rate}</chakra.span>}
        {fee.of && <Quiet>{fee.of}</Quiet>}
      </chakra.div>
      {fee.bands.length > 0 && (
        <chakra.div display="flex" gap="2px" alignItems="flex-end" h="66px" mt="1" role="img" aria-label={fee.said}>
          {fee.bands.map((b, i) => (
            <chakra.div key={b.to} flex="1" display="flex" flexDirection="column" justifyContent="flex-end">
              <chakra.span fontFamily="mono" fontSize="12px" textAlign="center">
                {b.rate}
              </chakra.span>
              <chakra.div
                style={{ height: `${Math.max(3, b.share * 0.3)}px`, backgroundImage: hatch }}
                borderTopWidth="2px"
                borderColor="strip.fees"
              />
              <chakra.span
                fontSize="11px"
                color="quiet"
                fontFamily="mono"
                textAlign="right"
                borderRightWidth={i < fee.bands.length - 1 ? "1px" : 0}
                borderColor="quiet"
                pr="1"
              >
                {b.to}
              </chakra.span>
            </chakra.div>
          ))}
        </chakra.div>
      )}
      {fee.also && <div>{fee.also}</div>}
    </chakra.div>
  );
}

/** WarehouseDrawn is what the marketplace's warehouse takes, step by step. */
export function WarehouseDrawn({ of: w }: { of: Schemas["StoreShown"] }) {
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
                {s.fits}
              </chakra.td>
              <chakra.td textAlign="right" fontFamily="mono">
                {s.fee}
              </chakra.td>
              <chakra.td pl="2" color="quiet">
                {s.also}
              </chakra.td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </chakra.div>
  );
}
