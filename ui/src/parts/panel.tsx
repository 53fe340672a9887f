import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { type Listing, useClock, useHistory, useLines, useListing } from "../api/queries";
import { ByHand } from "./byhand";
import { Steps } from "./charts";
import { Button, Code, Key, Quiet, Trouble, Word } from "./controls";
import { useKeys } from "./keys";
import { tone } from "./listings";
import { Money, money } from "./money";
import { Thumb } from "./picture";
import { figures, Opened } from "./strip";
import { Variants } from "./variants";

/** Panel is what a row opens into, beside its list. Esc closes it. */
export function Panel({ label, onClose, children }: { label: string; onClose: () => void; children: ReactNode }) {
  useKeys({ Escape: onClose }, true, [["Esc", "close what is open"]]);
  return (
    <chakra.aside
      aria-label={label}
      w="404px"
      flexShrink={0}
      borderLeftWidth="1px"
      borderColor="hair"
      pl="4"
      pr="1" // what has the focus isn't cut off
      overflowY="auto"
      position="relative"
    >
      <chakra.div position="absolute" right="0" top="1.5">
        <Button look="plain" size="small" onClick={onClose} aria-label="Esc, close">
          Esc
        </Button>
      </chakra.div>
      {children}
    </chakra.aside>
  );
}

/** ListingPanel opens one listing: how its price and its quantity came about,
 * line by line, below what the list it was opened from has to say of it. */
export function ListingPanel({ id, onClose, children }: { id: number; onClose: () => void; children?: ReactNode }) {
  const { data: l, error: noListing } = useListing(id);
  const { data: x, error } = useLines(id);
  const go = useNavigate();
  const docket = l ? `/products/${l.product_id}?listing=${l.id}` : "";
  useKeys({ o: () => docket && go(docket) }, true, [["o", "the docket of what is open"]]);
  return (
    <Panel label="One listing" onClose={onClose}>
      <Trouble error={error ?? noListing} />
      {l && (
        <chakra.div display="flex" gap="3" pr="12" pt="2" mb="2">
          <Thumb digest={l.picture} size={64} alt={`A picture of ${l.title}`} />
          <div>
            <chakra.h2 fontSize="15.5px" fontWeight="700">
              <Link to={docket}>
                <chakra.span _hover={{ textDecoration: "underline" }}>{l.title}</chakra.span>
              </Link>
            </chakra.h2>
            <chakra.div color="quiet" display="flex" gap="2" alignItems="center">
              <Code>{l.sku}</Code> {l.site} <Word tone={tone(l.state)}>{l.state}</Word>
            </chakra.div>
            <Link to={docket}>
              <chakra.span textDecoration="underline" fontSize="13px">
                Its docket
              </chakra.span>{" "}
              <Key>o</Key>
            </Link>
          </div>
        </chakra.div>
      )}
      {children}
      {l && x && (
        <>
          {x.lines.length > 0 ? (
            <>
              <chakra.div display="flex" alignItems="baseline" gap="3" mb="1">
                <Money minor={x.price} currency={x.currency} unit fontSize="19px" fontWeight="700" />
                <Quiet>{x.shown}</Quiet>
              </chakra.div>
              <Opened figures={figures(x)} currency={x.currency} lines={x.lines} />
              <Facts
                rows={[
                  ["margin", x.margin],
                  ["return on what is spent", x.return],
                  ["break-even", x.break_even == null ? "none" : `${money(x.break_even, x.currency)} ${x.currency}`],
                  [
                    "floor, the lowest this may ask",
                    x.floor == null ? "none" : `${money(x.floor, x.currency)} ${x.currency}`,
                  ],
                ]}
              />
            </>
          ) : (
            <Trouble error={new Error(x.why || x.shown)} />
          )}
          <Variants listing={id} heading={<Head>Variants on {l.site}</Head>} />
          <Head>By hand</Head>
          <ByHand listing={l} x={x} />
          <Head>How the landed cost came about</Head>
          <Facts rows={[...x.cost.map((c): [string, string] => [c.name, c.amount]), ["single units", x.units]]} />
          <Head>How many are offered</Head>
          <Facts rows={[[x.offer, `${x.quantity} offered`]]} />
          <Head>What {l.site} has confirmed</Head>
          <Facts
            rows={
              l.confirmed_at
                ? [
                    [
                      "price",
                      l.confirmed_price == null ? "–" : `${money(l.confirmed_price, l.currency)} ${l.currency}`,
                    ],
                    ["quantity", String(l.confirmed_quantity)],
                  ]
                : [["nothing yet", ""]]
            }
          />
          <Confirmed listing={l} />
          {l.confirmed_at && (
            <Link to={`/watch/listings/${l.id}`}>
              <chakra.span textDecoration="underline">Everything through time, with what was sent and why</chakra.span>
            </Link>
          )}
          {l.words && <Trouble error={new Error(`${l.site} says: ${l.words}`)} />}
          <Head>Where it comes from</Head>
          <Facts
            rows={[
              ["supplier", `${l.supplier}, ${l.ref}`],
              ["number", l.gtin],
              ["category", l.category],
            ]}
          />
          {l.page && (
            <chakra.a
              href={l.page}
              target="_blank"
              rel="noreferrer"
              textDecoration="underline"
              display="inline-block"
              my="2"
            >
              {l.site}'s page of entry {l.entry_ref}
            </chakra.a>
          )}
        </>
      )}
    </Panel>
  );
}

/** Confirmed draws what was asked on the site, and what it cost landed then. */
function Confirmed({ listing: l }: { listing: Listing }) {
  const { data: clock } = useClock();
  const { data: points } = useHistory(l.id);
  const prices = points?.filter((p) => p.price != null) ?? [];
  if (prices.length < 2 || !clock) return null;
  const words = prices.map((p) => money(p.price ?? 0, l.currency)).join(", ");
  return (
    <chakra.section aria-label="What was asked" mt="1">
      <Steps
        label={`Price asked, ${l.currency}: ${words}`}
        points={prices.map((p) => ({ at: p.at, value: p.price }))}
        second={prices.map((p) => ({ at: p.at, value: p.landed }))}
        until={clock.now}
        width={372}
        height={64}
      />
      <Quiet fontSize="12px">Price asked; dashed, what one cost landed.</Quiet>
    </chakra.section>
  );
}

function Head({ children }: { children: ReactNode }) {
  return (
    <chakra.h3 fontWeight="700" mt="3" mb="0.5" fontSize="12.5px" color="quiet">
      {children}
    </chakra.h3>
  );
}

/** Facts are names and values, in two columns. */
export function Facts({ rows }: { rows: [string, string][] }) {
  return (
    <chakra.dl display="grid" gridTemplateColumns="minmax(150px, 1fr) minmax(0, auto)" columnGap="3">
      {rows.map(([name, value]) => (
        <chakra.div key={name} display="contents">
          <chakra.dt py="0.5">{name}</chakra.dt>
          <chakra.dd textAlign="right" fontFamily="mono" fontSize="12.5px" py="0.5">
            {value}
          </chakra.dd>
        </chakra.div>
      ))}
    </chakra.dl>
  );
}
