import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useCompareToday } from "../../api/operations";
import { useClock } from "../../api/queries";
import { seen, useAway } from "../../parts/away";
import { Button, Quiet } from "../../parts/controls";
import { time } from "../../parts/when";

const words: Record<Schemas["Coming"]["kind"], string> = {
  feed: "is looked at",
  "light file": "is made",
  "send-out": "is tried again",
  fees: "has other fees",
};

/** Beside is what happened while nobody was here, and what comes by itself next. */
export function Beside() {
  const { data: clock } = useClock();
  const since = useAway();
  const { data } = useCompareToday({ query: { since } }, { keep: true });
  return (
    <>
      {since && data && data.away.length > 0 && (
        <chakra.section aria-label="While you were away" pb="4">
          <chakra.div display="flex" alignItems="center" gap="2">
            <chakra.h2 fontWeight="700" color="quiet" fontSize="12.5px" flex="1">
              While you were away, since {time(since, clock?.now)}
            </chakra.h2>
            <Button size="small" look="plain" onClick={seen}>
              Seen
            </Button>
          </chakra.div>
          {data.away.map((x) => (
            <chakra.div key={x.kind} display="grid" gridTemplateColumns="52px 1fr" gap="2" py="0.5">
              <chakra.span fontFamily="mono" fontWeight="600" textAlign="right">
                {x.count}
              </chakra.span>
              <Link to={x.link}>
                <chakra.span textDecoration="underline">{x.kind}</chakra.span>
              </Link>
            </chakra.div>
          ))}
        </chakra.section>
      )}
      {data && data.comes.length > 0 && (
        <chakra.section aria-label="Comes next" pb="4">
          <chakra.h2 fontWeight="700" color="quiet" fontSize="12.5px" mb="1">
            Comes next
          </chakra.h2>
          {data.comes.map((x) => (
            <chakra.div key={x.kind + x.name + x.at} display="grid" gridTemplateColumns="52px 1fr" gap="2" py="0.5">
              <chakra.span fontFamily="mono" color="quiet" fontSize="12px" pt="1px">
                {x.kind === "fees" ? time(x.at, clock?.now).split(" ").slice(0, 2).join(" ") : time(x.at, clock?.now)}
              </chakra.span>
              <div>
                <chakra.span fontWeight="600">{x.name}</chakra.span> <Quiet>{words[x.kind]}</Quiet>
              </div>
            </chakra.div>
          ))}
        </chakra.section>
      )}
    </>
  );
}
