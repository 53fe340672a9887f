import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { Head, Quiet } from "../../parts/controls";
import { Money } from "../../parts/money";
import { Moves, Tally } from "./moves";

/** Show is which listings an answer lists. */
export type Show = NonNullable<Schemas["WhatIf"]["show"]>;

/** lists are what each of them is called. */
export const lists: Record<Show, string> = {
  furthest: "Those that would fall furthest",
  floor: "Those that would fall under their floor",
  loss: "Those that would lose on every sale",
  broken: "Those that could not be worked out then",
};

type MonthProps = { now: number; then: number; currency: string };

/** Month is what a month would leave, against what it leaves now. */
function Month({ now, then, currency }: MonthProps) {
  return (
    <chakra.p fontSize="17px" mb="3">
      {then === now ? (
        <>The month would leave what it leaves now, </>
      ) : (
        <>
          The month would leave <Money minor={then} currency={currency} fontWeight="700" unit />,{" "}
          <Money minor={then - now} currency={currency} sign fontWeight="700" unit /> against now,{" "}
        </>
      )}
      <Money minor={now} currency={currency} unit />.
    </chakra.p>
  );
}

type AnswerProps = { x: Schemas["WhatIfAnswer"]; show: Show; onShow: (of: Show) => void };

/** Answer is one site's: each count opens the listings it counts. */
export function Answer({ x, show, onShow }: AnswerProps) {
  const counts: [Show, number, string][] = [
    ["furthest", x.worse, `of ${x.listings} would earn less`],
    ["floor", x.under_floor, "would fall under their floor"],
    ["loss", x.at_loss, "would lose on every sale"],
    ["broken", x.unpriced, "could not be worked out then"],
  ];
  return (
    <>
      <Month now={x.now} then={x.then} currency={x.currency} />
      <chakra.div display="flex" gap="4" mb="4" ml="-2">
        {counts
          .filter(([of, n]) => n > 0 || of !== "broken")
          .map(([of, n, words]) => (
            <chakra.button
              key={of}
              type="button"
              aria-pressed={show === of}
              textAlign="left"
              px="2"
              py="1"
              rounded="4px"
              bg={show === of ? "band" : undefined}
              _hover={{ bg: "band" }}
              onClick={() => onShow(of)}
            >
              <Tally n={n} loud={of !== "furthest" && n > 0}>
                {words}
              </Tally>
            </chakra.button>
          ))}
      </chakra.div>
      <chakra.h2 fontWeight="700" fontSize="12.5px" color="quiet">
        {lists[show]}
        {x.most.length === 100 && ", the first hundred"}
      </chakra.h2>
      {x.most.length > 0 ? (
        <Moves moves={x.most} currency={x.currency} to="Rules would ask" floor={show === "floor"} />
      ) : (
        <Quiet>None.</Quiet>
      )}
    </>
  );
}

/** Everywhere is every site we list on, and all of them together. */
export function Everywhere({ x, onSite }: { x: Schemas["WhatIfAll"]; onSite: (id: number) => void }) {
  const cell = (n: ReactNode) => (
    <chakra.td textAlign="right" pl="3" py="1" fontFamily="mono" whiteSpace="nowrap">
      {n}
    </chakra.td>
  );
  return (
    <>
      {x.now != null && x.then != null ? (
        <Month now={x.now} then={x.then} currency={x.home} />
      ) : (
        <chakra.p mb="3">
          A rate into {x.home} is missing, so the sites can't be put together; each stands for itself.
        </chakra.p>
      )}
      <chakra.table w="100%" aria-label="Site by site">
        <thead>
          <tr>
            <Head left>Site</Head>
            <Head>Listings</Head>
            <Head>Earn less</Head>
            <Head>Under floor</Head>
            <Head>At a loss</Head>
            <Head>The month now</Head>
            <Head>Then</Head>
            <Head>Change</Head>
          </tr>
        </thead>
        <tbody>
          {x.sites.map((s) => (
            <chakra.tr key={s.site_id} borderTopWidth="1px" borderColor="hair">
              <chakra.td py="1">
                <chakra.button
                  type="button"
                  textAlign="left"
                  textDecoration="underline"
                  onClick={() => onSite(s.site_id)}
                >
                  {s.site}
                </chakra.button>
              </chakra.td>
              {cell(s.listings)}
              {cell(s.worse)}
              {cell(s.under_floor)}
              {cell(s.at_loss)}
              {cell(<Money minor={s.now} currency={s.currency} unit />)}
              {cell(<Money minor={s.then} currency={s.currency} />)}
              {cell(<Money minor={s.then - s.now} currency={s.currency} sign unit />)}
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      <Quiet display="block" pt="2">
        Open a site for the listings themselves, and to ask about exchange rates into its currency.
      </Quiet>
    </>
  );
}
