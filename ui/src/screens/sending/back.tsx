import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetSubmissionReversal, useRevertSubmission } from "../../api/operations";
import { Button, Code, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money, money } from "../../parts/money";
import { Panel } from "../../parts/panel";
import { toggled } from "../../parts/toggled";

type Row = Schemas["BackRow"];

/** TakeBack is what taking back a send-out would do, line by line, before it is done. */
export function TakeBack({ id, onClose }: { id: number; onClose: () => void }) {
  const go = useNavigate();
  const { data, error } = useGetSubmissionReversal({ path: { id } });
  const [out, setOut] = useState<Set<number>>(new Set());
  const [held, setHeld] = useState<Set<number>>(new Set());
  const rows = data?.rows ?? [];
  const lines = rows
    .filter((r) => (r.verdict === "go" ? !out.has(r.id) : r.verdict === "held" && held.has(r.id)))
    .map((r) => r.id);
  const back = useRevertSubmission(() => ({ path: { id }, body: { lines } }));
  const act = () =>
    lines.length > 0 &&
    !back.isPending &&
    back.mutate(undefined, { onSuccess: (s) => s.send_outs.length && go(`/send/${s.send_outs[0]}`) });
  useKeys({ ".": act }, true, [[".", "take back what is chosen"]]);
  return (
    <Panel label="Take back" onClose={onClose}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" pr="12">
        Take it back
      </chakra.h2>
      <chakra.p color="quiet" mb="2">
        Worked out at today's costs and stock, by the same guards. The move that is taken back waits from then on until
        another one is due.
      </chakra.p>
      <Button look="main" disabled={lines.length === 0 || back.isPending} onClick={act}>
        {lines.length === 0
          ? "Nothing is chosen"
          : `Take back ${lines.length} ${lines.length === 1 ? "line" : "lines"}`}{" "}
        <Key>.</Key>
      </Button>
      <Trouble error={back.error ?? error} />
      <chakra.ul mt="3" aria-label="Lines">
        {rows.map((r) => (
          <Line
            key={r.id}
            row={r}
            on={lines.includes(r.id)}
            onFlip={() => (r.verdict === "go" ? setOut(toggled(out, r.id)) : setHeld(toggled(held, r.id)))}
          />
        ))}
      </chakra.ul>
    </Panel>
  );
}

function Line({ row: r, on, onFlip }: { row: Row; on: boolean; onFlip: () => void }) {
  return (
    <chakra.li borderTopWidth="1px" borderColor="hair" py="1">
      <chakra.label display="flex" gap="2" alignItems="center" opacity={r.verdict === "blocked" ? 0.7 : 1}>
        <input type="checkbox" checked={on} disabled={r.verdict === "blocked"} onChange={onFlip} />
        <chakra.span flex="1" minW="0" truncate title={r.title}>
          {r.title}
        </chakra.span>
        {r.verdict !== "go" && <Word tone="bad">{r.verdict}</Word>}
      </chakra.label>
      <chakra.div display="flex" gap="3" pl="6" fontSize="12.5px">
        {r.to_price !== null && (
          <chakra.span fontFamily="mono">
            {money(r.from_price ?? 0, r.currency)} → <b>{money(r.to_price, r.currency)}</b> {r.currency}
          </chakra.span>
        )}
        {r.to_quantity !== null && (
          <Code color="ink">
            {r.from_quantity} → {r.to_quantity} offered
          </Code>
        )}
        {r.profit !== null && (
          <Quiet>
            leaves <Money minor={r.profit} currency={r.currency} sign />
          </Quiet>
        )}
      </chakra.div>
      {r.why && (
        <chakra.p pl="6" fontSize="12.5px" color={r.verdict === "go" ? "quiet" : "loss"}>
          {r.why}
        </chakra.p>
      )}
    </chakra.li>
  );
}
