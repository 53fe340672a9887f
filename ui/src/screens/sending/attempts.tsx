import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useListListingAttempts, useListSubmissionMessages } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Quiet, Trouble, Word } from "../../parts/controls";
import { time } from "../../parts/when";

const few = 5;

/** WhatWasSent lists what was let go for a listing, the newest first; each opens
 * into what was handed over, byte for byte. */
export function WhatWasSent({ listing }: { listing: number }) {
  const { data, error } = useListListingAttempts({ path: { id: listing } });
  const [all, setAll] = useState(false);
  const shown = all ? data : data?.slice(0, few);
  return (
    <chakra.section aria-label="What was sent of it" mb="3">
      <chakra.h3 fontWeight="700" fontSize="12.5px" color="quiet">
        What was sent of it
      </chakra.h3>
      <Trouble error={error} />
      {shown?.map((a) => (
        <Attempt key={a.id} of={a} />
      ))}
      {data && data.length > few && !all && (
        <Button size="small" onClick={() => setAll(true)}>
          All {data.length}
        </Button>
      )}
    </chakra.section>
  );
}

function Attempt({ of: a }: { of: Schemas["Attempt"] }) {
  const { data: clock } = useClock();
  const [open, setOpen] = useState(false);
  const { data: sent, error } = useListSubmissionMessages({ path: { id: a.id } }, { enabled: open });
  return (
    <chakra.div borderBottomWidth="1px" borderColor="hair" py="1" fontSize="12.5px">
      <chakra.div display="flex" gap="2" alignItems="baseline">
        <Link to={`/send/${a.send_out}`}>
          <chakra.span textDecoration="underline">{time(a.begun, clock?.now)}</chakra.span>
        </Link>
        <Word tone={a.state === "confirmed" ? "good" : a.state === "refused" ? "bad" : undefined}>{a.state}</Word>
        <chakra.span flex="1" color="quiet" truncate title={a.words}>
          {a.words}
        </chakra.span>
        <Button size="small" look="plain" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close" : "As it was sent"}
        </Button>
      </chakra.div>
      <Trouble error={error} />
      {open &&
        sent?.map((s) => (
          <chakra.figure key={s.at} m="0" mt="1">
            <chakra.figcaption>
              <Quiet>handed over {time(s.at, clock?.now)}</Quiet>
            </chakra.figcaption>
            <chakra.pre
              fontFamily="mono"
              fontSize="11.5px"
              whiteSpace="pre-wrap"
              overflowWrap="anywhere"
              bg="band"
              p="2"
              maxH="220px"
              overflowY="auto"
              tabIndex={0}
              aria-label="As it was handed over"
            >
              {s.text}
            </chakra.pre>
          </chakra.figure>
        ))}
      {open && sent?.length === 0 && (
        <Quiet>
          {a.handed
            ? "It went in a filled sheet, or as a task: that is kept with its send-out."
            : "It was never handed over."}
        </Quiet>
      )}
    </chakra.div>
  );
}
