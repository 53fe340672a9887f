import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { useReadRivals } from "../../api/operations";
import { Would } from "../../parts/beside";
import { Bars } from "../../parts/charts";
import { Button, Quiet } from "../../parts/controls";
import { Money } from "../../parts/money";
import { useWidth } from "../../parts/width";
import { Moves, Tally } from "./moves";

type Preview = Schemas["Preview"];

type PaneProps = { site: number; preview?: Preview; busy: boolean; wrong: boolean; children?: ReactNode };

/** Unread says that a rule looks at rivals nobody has asked about yet. */
function Unread({ site, n }: { site: number; n: number }) {
  const ask = useReadRivals(() => ({ path: { id: site } }));
  return (
    <chakra.div bg="warn" px="3" py="2" mb="2" display="flex" gap="3" alignItems="center">
      <chakra.span flex="1">
        What others ask was never read for {n === 1 ? "one of them" : `${n} of them`}; these are priced as if nobody
        else sold them.
      </chakra.span>
      <Button size="small" disabled={ask.isPending || ask.isSuccess} onClick={() => ask.mutate(undefined)}>
        {ask.isSuccess ? "Reading…" : "Read it now"}
      </Button>
    </chakra.div>
  );
}

/** PreviewPane is what a rule would do if it were kept, and below it what else there is to ask of it. */
export function PreviewPane({ site, preview: p, busy, wrong, children }: PaneProps) {
  return (
    <Would busy={busy} wrong={wrong}>
      {!p ? (
        <Quiet>{wrong ? "Something above can't be read yet." : "Working it out…"}</Quiet>
      ) : (
        <>
          {p.words && (
            <chakra.p color="ink" mb="3">
              {p.words}.
            </chakra.p>
          )}
          <chakra.div display="flex" gap="6" mb="3">
            {p.words ? <Tally n={p.fits}>of {p.listings} it holds</Tally> : <Tally n={p.listings}>listings</Tally>}
            <Tally n={p.up}>up</Tally>
            <Tally n={p.down}>down</Tally>
            <Tally n={p.same}>unchanged</Tally>
            <Tally n={p.unsellable} loud={p.unsellable > 0}>
              unsellable
            </Tally>
            {p.priced > 0 && <Tally n={p.priced}>newly priced</Tally>}
          </chakra.div>
          {p.looked < p.listings && (
            <chakra.p mb="2" color="quiet">
              From {p.looked} of {p.listings} listings; all of them are being worked out.
            </chakra.p>
          )}
          {p.unread > 0 && <Unread site={site} n={p.unread} />}
          {p.unsellable > 0 && <WhyNone of={p} />}
          <AtOnce n={p.at_once} />
          {p.without > 0 && <Quiet>{p.without} would stay without a price.</Quiet>}
          <Histogram bars={p.bars} />
          {(p.better > 0 || p.worse > 0) && (
            <chakra.p mb="3">
              One sale of each:{" "}
              {p.better > 0 && (
                <>
                  <Money minor={p.better} currency={p.currency} unit color="gain" /> more where it earns more
                </>
              )}
              {p.better > 0 && p.worse > 0 && ", "}
              {p.worse > 0 && (
                <>
                  <Money minor={p.worse} currency={p.currency} unit color="loss" /> less where it earns less
                </>
              )}
              .
            </chakra.p>
          )}
          {p.most.length > 0 ? (
            <>
              <chakra.h3 fontWeight="700" fontSize="12.5px" color="quiet">
                Those that move most
              </chakra.h3>
              <Moves moves={p.most} currency={p.currency} />
            </>
          ) : (
            <Quiet>No price would move.</Quiet>
          )}
        </>
      )}
      {children}
    </Would>
  );
}

/** WhyNone says why what has a price now would have none, by the first that would. */
function WhyNone({ of: p }: { of: Preview }) {
  const first = p.most.find((m) => m.to === null);
  return first ? (
    <chakra.p mb="2" color="loss">
      Without a price, such as {first.title}: {first.why}.
    </chakra.p>
  ) : null;
}

/** AtOnce says how many prices are sent by themselves as soon as it is kept. */
export function AtOnce({ n }: { n: number }) {
  if (n === 0) return null;
  return (
    <chakra.p role="status" bg="warn" px="3" py="2" mb="2">
      {n === 1 ? "One of these is" : `${n} of these are`} on sale where prices go by themselves:{" "}
      {n === 1 ? "it changes" : "they change"} there within seconds of keeping it, but for what is held.
    </chakra.p>
  );
}

/** keepAnd says on a button what keeping sends at once. */
export const keepAnd = (words: string, n = 0) => (n > 0 ? `${words} and send up to ${n}` : words);

/** Histogram is how many prices move by how much, in per cent. */
export function Histogram({ bars }: { bars: Schemas["Bar"][] }) {
  const { ref, width } = useWidth<HTMLElement>(340);
  if (bars.every((b) => b.count === 0)) return null;
  const bins = bars.map((b) => ({
    name: b.words,
    edge: b.from === null ? "" : String(b.from).replace("-", "−"),
    count: b.count,
    tone: (b.to ?? 1) <= 0 ? "strip.delivery" : "strip.left",
  }));
  return (
    <chakra.figure ref={ref} my="3">
      <Bars label="How many prices move by how much" bins={bins} width={width} height={110} figures />
      <Quiet fontSize="12px">change in per cent, from the figure on</Quiet>
    </chakra.figure>
  );
}
