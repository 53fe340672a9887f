import { chakra } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { useAssignMatchNumber, useDecideMatch, useDeleteMatchNumber, useRetryMatches } from "../../api/operations";
import { Button, Code, Empty, Input, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { Form } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Board } from "./board";
import type { Last } from "./index";
import { type Candidate, type Match, useDesk } from "./queries";
import { type Units, UnitsForm } from "./units";

type Body = {
  entry?: string;
  state?: "new entry" | "later";
  units_bought?: number;
  units_listed?: number;
  everywhere?: boolean;
};

/** DeskOf is one decision: the supplier's product beside its candidates. */
export function DeskOf({ match: m, onDecided }: { match: Match; onDecided: (last: Last) => void }) {
  const form = useForm({ defaultValues: { typed: "" } });
  const [words, setWords] = useState("");
  const [everywhere, setEverywhere] = useState(true);
  const [asking, setAsking] = useState<Candidate>(); // how many of it?
  const box = useRef<HTMLInputElement | null>(null);
  const found = useDesk(m.id, words);
  const list = found.data?.candidates ?? [];
  const others = found.data?.elsewhere ?? [];
  const decide = useDecideMatch((body: Body) => ({ path: { id: m.id }, body }));
  const say = (body: Body, what: string) => {
    if (decide.isPending) return;
    decide.mutate(body, {
      onSuccess: (d) =>
        onDecided({ id: m.id, title: m.title, what: what + (d.sites.length ? `, and on ${d.sites.join(", ")}` : "") }),
    });
  };
  const put = (c: Candidate, u?: Units) => {
    if (!u && (c.units_bought === 0 || c.units_listed === 0)) setAsking(c);
    else
      say(
        {
          entry: c.ref,
          units_bought: u?.bought ?? c.units_bought,
          units_listed: u?.listed ?? c.units_listed,
          everywhere: everywhere && others.length > 0,
        },
        `is ${c.ref}`,
      );
  };
  const fresh = () => say({ state: "new entry" }, "gets a new entry");
  const later = () => say({ state: "later" }, "is put off");
  const units = () => list[0] && setAsking(list[0]);
  const look = () => box.current?.focus();
  useKeys(
    {
      ...Object.fromEntries(list.slice(0, 9).map((c, i) => [String(i + 1), () => put(c)])),
      n: fresh,
      N: fresh,
      l: later,
      L: later,
      u: units,
      U: units,
      w: look,
      W: look,
      e: () => setEverywhere(!everywhere),
      E: () => setEverywhere(!everywhere),
    },
    !asking,
    [
      ["1 … 9", "it is this entry"],
      ["N", "ask for a new entry"],
      ["L", "later"],
      ["U", "say how many are in it"],
      ["W", "look up by other words, a number or an address"],
      ["E", "on the other sites too, or here alone"],
    ],
  );
  const typed = form.register("typed");
  return (
    <chakra.div overflowY="auto" minW="0" pt="2" display="flex" flexDirection="column">
      <chakra.section aria-label="The supplier's product" pb="2" display="flex" gap="3" alignItems="center">
        <chakra.div flex="1" minW="0">
          <chakra.h2 fontSize="16px" fontWeight="700" truncate title={m.title}>
            {m.title}
          </chakra.h2>
          <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap">
            <Quiet>{m.supplier}</Quiet> <Code>{m.ref}</Code> <Money minor={m.cost} currency={m.currency} unit />
            <Quiet>{m.stock_state === "known" ? `${m.stock} in stock` : m.stock_state}</Quiet>
            {m.note && <Word tone="bad">{m.note}</Word>}
            {m.gtin_status === "leading zeros" && <Word tone="bad">zeros put back by guess</Word>}
          </chakra.div>
        </chakra.div>
        {others.length > 0 && (
          <chakra.label display="flex" gap="1.5" alignItems="center" whiteSpace="nowrap">
            <input type="checkbox" checked={everywhere} onChange={(e) => setEverywhere(e.target.checked)} />
            also on {others.join(", ")} <Key>E</Key>
          </chakra.label>
        )}
        {m.state === "new entry" ? (
          <OwnNumber match={m} />
        ) : (
          <Button onClick={fresh}>
            New entry <Key>N</Key>
          </Button>
        )}
        {m.state !== "later" && (
          <Button onClick={later}>
            Later <Key>L</Key>
          </Button>
        )}
      </chakra.section>
      <Form
        form={form}
        display="flex"
        gap="2"
        pb="2"
        onSubmit={form.handleSubmit(({ typed }) => setWords(typed))}
        label={`Look ${m.site} up`}
      >
        <Input
          flex="1"
          placeholder={`Look ${m.site} up by other words, a number, or the address of a page`}
          aria-label="Look up by words"
          onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
          {...typed}
          ref={(el: HTMLInputElement | null) => {
            typed.ref(el);
            box.current = el;
          }}
        />
        <Button type="submit">
          Look up <Key>W</Key>
        </Button>
        <LookAgain site={m.site_id} name={m.site} />
      </Form>
      <Trouble error={decide.error} />
      <Trouble error={found.error} retry={() => found.refetch()} />
      {found.isLoading && <Quiet>Asking {m.site}…</Quiet>}
      {found.data && list.length === 0 && (
        <Empty title={`${m.site} has nothing like it`}>
          Try other words above, ask for a new entry, or put it off.
        </Empty>
      )}
      {asking && (
        <UnitsForm
          bought={asking.units_bought}
          listed={asking.units_listed}
          label={`How many? ${asking.title}`}
          onSay={(u) => {
            setAsking(undefined);
            put(asking, u);
          }}
          onClose={() => setAsking(undefined)}
        />
      )}
      {list.length > 0 && <Board match={m} candidates={list} onChoose={put} onUnits={setAsking} />}
    </chakra.div>
  );
}

/** OwnNumber gives a new entry a number of the seller's own, or puts it back. */
function OwnNumber({ match: m }: { match: Match }) {
  const give = useAssignMatchNumber(() => ({ path: { id: m.id } }));
  const back = useDeleteMatchNumber(() => ({ path: { id: m.id } }));
  return (
    <chakra.span display="flex" gap="2" alignItems="center">
      {(give.error || back.error) && <Quiet color="loss">{String((give.error ?? back.error)?.message)}</Quiet>}
      {m.number ? (
        <>
          <Code color="ink">{m.number}</Code>
          <Button onClick={() => back.mutate(undefined)} disabled={back.isPending}>
            Put the number back
          </Button>
        </>
      ) : m.gtin ? null : (
        <Button onClick={() => give.mutate(undefined)} disabled={give.isPending}>
          Give it a number of our own
        </Button>
      )}
    </chakra.span>
  );
}

function LookAgain({ site, name }: { site: number; name: string }) {
  const again = useRetryMatches(() => ({ path: { id: site } }));
  return (
    <Button
      onClick={() => again.mutate(undefined)}
      disabled={again.isPending}
      title={`Ask ${name} again for all that wait`}
    >
      Look all up again
    </Button>
  );
}
