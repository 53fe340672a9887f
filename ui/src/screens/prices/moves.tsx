import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Code, Head, Quiet } from "../../parts/controls";
import { Money } from "../../parts/money";
import { Lines } from "../../parts/strip";

export type Move = Schemas["Move"];

type MovesProps = { moves: Move[]; currency: string; to?: string; floor?: boolean };

/** Moves are listings whose price would move: from, to, and what is left. Each opens into its lines. */
export function Moves({ moves, currency, to = "To", floor }: MovesProps) {
  const [open, setOpen] = useState<number | null>(null);
  return (
    <chakra.table w="100%" aria-label="Prices that would move">
      <thead>
        <tr>
          <Head left>Product</Head>
          <Head>{`From, ${currency}`}</Head>
          {floor && <Head>Floor then</Head>}
          <Head>{to}</Head>
          <Head>Left now</Head>
          <Head>Left then</Head>
        </tr>
      </thead>
      <tbody>
        {moves.map((m) => (
          <Row
            key={m.listing_id}
            move={m}
            currency={currency}
            floor={floor}
            open={open === m.listing_id}
            onOpen={() => setOpen(open === m.listing_id ? null : m.listing_id)}
          />
        ))}
      </tbody>
    </chakra.table>
  );
}

type RowProps = { move: Move; currency: string; floor?: boolean; open: boolean; onOpen: () => void };

function Row({ move: m, currency, floor, open, onOpen }: RowProps) {
  const cell = (minor: number | null, sign = false) => (
    <chakra.td textAlign="right" pl="3" py="1" whiteSpace="nowrap">
      <Money minor={minor} currency={currency} sign={sign} />
    </chakra.td>
  );
  return (
    <>
      <chakra.tr borderTopWidth="1px" borderColor="hair">
        <chakra.td py="1" maxW="0" w="100%">
          <chakra.button
            type="button"
            aria-expanded={open}
            onClick={onOpen}
            maxW="100%"
            textAlign="left"
            display="block"
          >
            <chakra.span display="block" truncate>
              {m.title}
            </chakra.span>
          </chakra.button>
          {m.refused && (
            <chakra.span display="block" color="loss" fontSize="12.5px" whiteSpace="normal">
              {m.refused}
            </chakra.span>
          )}
        </chakra.td>
        {cell(m.from)}
        {floor && cell(m.floor)}
        {cell(m.to)}
        {cell(m.profit_was, true)}
        {cell(m.profit, true)}
      </chakra.tr>
      {open && (
        <tr>
          <chakra.td colSpan={floor ? 6 : 5} pb="2" pl="4">
            <Quiet>
              <Code>{m.sku}</Code> {m.why}
            </Quiet>
            {m.lines.length > 0 && (
              <chakra.div maxW="380px">
                <Lines lines={m.lines} left={m.profit ?? m.profit_was ?? 0} currency={currency} />
              </chakra.div>
            )}
          </chakra.td>
        </tr>
      )}
    </>
  );
}

/** Tally is one count with what it counts. */
export function Tally({ n, children, loud }: { n: number | string; children: React.ReactNode; loud?: boolean }) {
  return (
    <chakra.div>
      <chakra.div fontFamily="mono" fontSize="18px" fontWeight="700" color={loud ? "loss" : "ink"}>
        {n}
      </chakra.div>
      <Quiet fontSize="12.5px">{children}</Quiet>
    </chakra.div>
  );
}
