import { chakra } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { useCounts, useSites, useSources } from "../../api/queries";
import { Button, Key, Quiet, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";

type Step = { title: string; more: string; done: boolean; action: string; to: string };

/** useFirst is the way to the first sale, step by step; nothing once something was on sale. */
export function useFirst(): Step[] | null {
  const { data: c } = useCounts();
  const { data: sites } = useSites();
  const { data: sources } = useSources();
  if (!c || !sites || !sources || c.live + c.sent + c.refused + c.unknown > 0) return null;
  const waits = c.match_several + c.match_none;
  const taken = c.supplier_products > 0;
  const unsaid = sites.find((s) => s.lists && s.terms_unsaid);
  const costs = sources.find((s) => s.unsaid);
  const looked = sources.find((s) => s.feeds.some((f) => f.state === "looked"));
  return [
    {
      title: "Say where you sell",
      more: unsaid
        ? `Nothing is priced on ${unsaid.name} until you say what the buyer pays for delivery there and what sending one costs you.`
        : "By the address of a gateway, or by the files that a place lets you download: both are as good to begin with.",
      done: sites.length > 0 && !unsaid,
      action: unsaid ? "Say what it costs" : "Add a place",
      to: unsaid ? `/price?tab=terms&site=${unsaid.id}` : "/places",
    },
    {
      title: "Bring in a supplier's products",
      more: costs
        ? `Nothing of ${costs.name} is priced until you say what they charge to deliver an order and whether there is tax in their costs.`
        : "Drop a price list, give the address it is fetched from, or paste a page. You see what was recognised before anything is kept.",
      done: taken && !costs,
      action: costs ? "Say what it costs" : looked ? "Look at the new feed" : "Bring in the first",
      to: costs ? `/sources?open=${costs.id}` : "/sources",
    },
    {
      title: "Decide what is not certain",
      more: "Each product is looked up by its number. Certain ones become listings by themselves; the others wait for you.",
      done: taken && c.products > 0 && waits === 0,
      action: waits > 0 ? `Decide ${waits}` : "See Match",
      to: "/match",
    },
    {
      title: "Say what you want to earn",
      more: "A rule prices everything it fits: what should be left of a sale, what must be, and where to stand beside others.",
      done: c.ready > 0 && c.unpriced === 0,
      action: "Look at the rules",
      to: "/price?tab=rules",
    },
    {
      title: "Send the first listings",
      more: "Nothing reaches a marketplace before you let it go. From then on Watch follows every cost and stock.",
      done: false,
      action: c.ready > 0 ? `Send ${c.ready}` : "See Send",
      to: "/send",
    },
  ];
}

/** First says what to do first, and in which order, until something is on sale. */
export function First({ steps }: { steps: Step[] }) {
  const go = useNavigate();
  const next = steps.findIndex((s) => !s.done);
  useKeys({ ".": () => go(steps[next].to) }, next >= 0, [[".", "do what comes next"]]);
  return (
    <chakra.ol aria-label="The way to your first sale" borderTopWidth="1px" borderColor="hair">
      {steps.map((s, i) => (
        <chakra.li
          key={s.title}
          display="flex"
          alignItems="center"
          gap="4"
          py="3.5"
          px="2"
          borderBottomWidth="1px"
          borderColor="hair"
          aria-current={i === next ? "step" : undefined}
        >
          <chakra.span
            fontFamily="mono"
            fontSize="21px"
            fontWeight="600"
            w="28px"
            flexShrink={0}
            color={i === next ? "ink" : "quiet"}
          >
            {i + 1}
          </chakra.span>
          <chakra.div flex="1" minW="0">
            <chakra.div fontSize="15.5px" fontWeight={i === next ? "700" : "500"}>
              {s.title}
            </chakra.div>
            <Quiet>{s.more}</Quiet>
          </chakra.div>
          {s.done ? (
            <Word tone="good">done</Word>
          ) : (
            <Button look={i === next ? "main" : "plain"} onClick={() => go(s.to)}>
              {s.action} {i === next && <Key>.</Key>}
            </Button>
          )}
        </chakra.li>
      ))}
    </chakra.ol>
  );
}
