import { chakra } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { useClock, useToday } from "../../api/queries";
import { Button, Empty, Key, Quiet, Title, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { at, time } from "../../parts/when";
import { Beside } from "./beside";
import { EarnedToday } from "./earned";
import { First, useFirst } from "./first";

/** covered are the kinds of things that the way to the first sale says itself. */
const covered = new Set(["first", "fetch", "feed", "match", "ready", "unpriced", "unsaid"]);

/** shortly is the time of today, and the day of before. */
const shortly = (iso: string, now?: string) =>
  now?.slice(0, 10) === iso.slice(0, 10) ? time(iso, now) : at(iso, { day: "numeric", month: "short" });

/** Today is what needs a person, most money at stake first, each with its one action. */
export function Today() {
  const { data, error, refetch } = useToday();
  const { data: clock } = useClock();
  const go = useNavigate();
  const first = useFirst();
  const items = data?.items ?? [];
  useKeys({ ".": () => items[0] && go(items[0].link) }, !first && items.length > 0, [[".", "do the first of them"]]);
  return (
    <>
      <Title
        title={clock ? at(clock.now, { weekday: "long", day: "numeric", month: "long" }) : "Today"}
        more={
          data &&
          (first
            ? "the way to your first sale, step by step"
            : items.length === 0
              ? "nothing waits for you"
              : `${items.length} ${items.length === 1 ? "thing waits" : "things wait"} for you`)
        }
      >
        <Button look="plain" onClick={() => go("/keeping")}>
          What is kept
        </Button>
      </Title>
      <Trouble error={error} retry={refetch} />
      <chakra.div display="grid" gridTemplateColumns="minmax(0, 1fr) 360px" gap="8" flex="1" minH="0">
        <chakra.section aria-label="What needs you" overflowY="auto" borderTopWidth="1px" borderColor="hair">
          {first && <First steps={first} />}
          {data && !first && items.length === 0 && (
            <Empty title="All clear">When a supplier, a price or a marketplace needs you, it stands here.</Empty>
          )}
          {items
            .filter((x) => !first || !covered.has(x.kind))
            .map((x, i) => (
              <chakra.div
                key={x.kind + x.words + x.link}
                display="flex"
                alignItems="center"
                gap="4"
                py="3"
                px="2"
                borderBottomWidth="1px"
                borderColor="hair"
              >
                <chakra.div flex="1" minW="0">
                  <chakra.div fontSize="15.5px" fontWeight="600">
                    {x.words}
                  </chakra.div>
                  <Quiet>{x.more}</Quiet>
                </chakra.div>
                {x.stake > 0 && (
                  <chakra.div textAlign="right" flexShrink={0}>
                    <Money minor={x.stake} currency={x.currency} unit fontSize="15px" fontWeight="600" />
                    <chakra.div color="quiet" fontSize="12px">
                      at stake
                    </chakra.div>
                  </chakra.div>
                )}
                <chakra.div w="172px" display="flex" justifyContent="flex-end" flexShrink={0}>
                  <Button look={i === 0 && !first ? "main" : undefined} onClick={() => go(x.link)}>
                    {x.action}
                    {i === 0 && !first && <Key>.</Key>}
                  </Button>
                </chakra.div>
              </chakra.div>
            ))}
        </chakra.section>
        <chakra.section aria-label="Done last" overflowY="auto" borderTopWidth="1px" borderColor="hair" pt="2">
          <EarnedToday />
          <Beside />
          <chakra.h2 fontWeight="700" color="quiet" fontSize="12.5px" mb="1">
            Done last
          </chakra.h2>
          {data?.last.map((l) => (
            <chakra.div key={l.at + l.what} display="grid" gridTemplateColumns="52px 1fr" gap="2" py="1">
              <chakra.span fontFamily="mono" color="quiet" fontSize="12px" pt="1px">
                {shortly(l.at, clock?.now)}
              </chakra.span>
              <div>
                <chakra.span fontWeight="600">{l.what}</chakra.span> {l.subject}
                {l.actor !== "owner" && <Quiet> by {l.actor}</Quiet>}
                {l.detail && l.detail !== l.subject && (
                  <chakra.div color="quiet" fontSize="12.5px" overflowWrap="anywhere">
                    {l.detail}
                  </chakra.div>
                )}
              </div>
            </chakra.div>
          ))}
        </chakra.section>
      </chakra.div>
    </>
  );
}
