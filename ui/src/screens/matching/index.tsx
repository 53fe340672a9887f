import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { api, read, type Schemas } from "../../api/client";
import { useCounts, useDo, useParts } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Key, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { Form } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Next } from "../../parts/next";
import { Thumb } from "../../parts/picture";
import { Tabs } from "../../parts/tabs";
import { useCandidates } from "./queries";

type Match = Schemas["MatchRow"];
type Candidate = Schemas["CandidateView"];

/** Match is a desk for one decision at a time: is this the same product? */
export function Match() {
  const a = useAddress();
  const state = (a.get("state") || "waiting") as "waiting" | "later" | "new entry";
  const { data: counts } = useCounts();
  const list = useParts<Match>(["matches", "list", state], (p) =>
    read(api.GET("/api/matches", { params: { query: { ...p, state } } })),
  );
  // What is decided leaves the list; then the one that took its place is at hand.
  const place = useRef(0);
  const found = list.rows.findIndex((m) => m.id === a.open);
  const at = found >= 0 ? found : Math.max(0, Math.min(place.current, list.rows.length - 1));
  useEffect(() => {
    if (list.rows.length > 0) place.current = at;
  }, [at, list.rows.length]);
  const current = list.rows[at] as Match | undefined;
  const move = (by: number) => {
    const next = list.rows[at + by];
    if (next) a.setOpen(next.id);
  };
  useKeys({ ArrowDown: () => move(1), ArrowUp: () => move(-1) }, true, [
    ["↓ ↑", "the next product, or the one before"],
  ]);
  return (
    <>
      <Title title="Match" more="Is it the same product? The certain ones are accepted already.">
        {current && state === "waiting" && <LookAgain site={current.site_id} />}
      </Title>
      <Tabs
        label="Match"
        tabs={[
          {
            to: "?",
            label: "Waiting",
            count: counts && counts.match_several + counts.match_none,
            on: state === "waiting",
          },
          { to: "?state=later", label: "Later", count: counts?.match_later, on: state === "later" },
          { to: "?state=new%20entry", label: "New entries asked for", on: state === "new entry" },
        ]}
      >
        <Trouble error={list.error} retry={list.retry} />
        {!list.loading && list.rows.length === 0 ? (
          <Empty title="Nothing waits here">
            Supplier products whose number has no single, certain entry wait here for your decision.
            {state === "waiting" && <Next except={["match"]} keyed />}
          </Empty>
        ) : (
          <chakra.div display="grid" gridTemplateColumns="300px minmax(0, 1fr)" gap="5" flex="1" minH="0">
            <chakra.div
              overflowY="auto"
              role="listbox"
              aria-label="Supplier products"
              tabIndex={0}
              borderRightWidth="1px"
              borderColor="hair"
              pr="2"
            >
              {list.rows.map((m) => (
                <Waiting key={m.id} match={m} on={m.id === current?.id} onOpen={() => a.setOpen(m.id)} />
              ))}
            </chakra.div>
            {current && <Desk key={current.id} match={current} />}
          </chakra.div>
        )}
      </Tabs>
    </>
  );
}

/** Waiting is one product in the list of those that wait. */
function Waiting({ match: m, on, onOpen }: { match: Match; on: boolean; onOpen: () => void }) {
  return (
    <chakra.div
      role="option"
      aria-selected={on}
      onClick={onOpen}
      display="flex"
      gap="2"
      alignItems="center"
      px="2"
      py="1.5"
      cursor="pointer"
      borderBottomWidth="1px"
      borderColor="hair"
      bg={on ? "tint" : undefined}
      _hover={{ bg: "band" }}
    >
      <Thumb digest={m.picture} size={34} />
      <chakra.div minW="0">
        <chakra.div truncate fontWeight={on ? "700" : "500"}>
          {m.title}
        </chakra.div>
        <chakra.div color="quiet" fontSize="12px">
          {m.supplier} · {m.state === "none" ? "no entry found" : m.state === "several" ? "wants a choice" : m.state}
        </chakra.div>
      </chakra.div>
    </chakra.div>
  );
}

function LookAgain({ site }: { site: number }) {
  const again = useDo(
    () => read(api.POST("/api/sites/{id}/look-again", { params: { path: { id: site } } })),
    "runs",
    "matches",
  );
  return (
    <Button
      onClick={() => again.mutate(undefined)}
      disabled={again.isPending}
      title="Ask the marketplace again for all that wait"
    >
      Look them up again
    </Button>
  );
}

function Desk({ match: m }: { match: Match }) {
  const form = useForm({ defaultValues: { typed: "" } });
  const [words, setWords] = useState("");
  const found = useCandidates(m.id, words);
  const list = found.data ?? [];
  const decide = useDo(
    (body: { entry?: string; state?: "new entry" | "later" }) =>
      read(api.POST("/api/matches/{id}/decide", { params: { path: { id: m.id } }, body })),
    "matches",
    "products",
    "listings",
  );
  const say = (body: { entry?: string; state?: "new entry" | "later" }) => {
    if (!decide.isPending) decide.mutate(body);
  };
  useKeys(
    {
      ...Object.fromEntries(list.slice(0, 9).map((c, i) => [String(i + 1), () => say({ entry: c.ref })])),
      n: () => say({ state: "new entry" }),
      N: () => say({ state: "new entry" }),
      l: () => say({ state: "later" }),
      L: () => say({ state: "later" }),
    },
    true,
    [
      ["1 … 9", "it is this entry"],
      ["N", "ask for a new entry"],
      ["L", "later"],
    ],
  );
  return (
    <chakra.div overflowY="auto" minW="0" pt="3">
      <chakra.section aria-label="The supplier's product" pb="3">
        <chakra.div display="flex" gap="3" alignItems="flex-start">
          <Thumb digest={m.picture} size={132} alt={`As ${m.supplier} shows it`} />
          <chakra.div flex="1" minW="0">
            <chakra.div color="quiet" fontSize="12px">
              {m.supplier} says
            </chakra.div>
            <chakra.h2 fontSize="17px" fontWeight="700">
              {m.title}
            </chakra.h2>
            <Row
              brand={m.brand}
              number={m.gtin}
              more={m.gtin_status === "leading zeros" ? "zeros put back" : ""}
              units={m.units > 1 ? `${m.units} in one` : ""}
            >
              <Code>{m.ref}</Code> <Money minor={m.cost} currency={m.currency} unit />{" "}
              <Quiet>{m.stock_state === "known" ? `${m.stock} in stock` : m.stock_state}</Quiet>
            </Row>
          </chakra.div>
          <Button onClick={() => say({ state: "new entry" })}>
            New entry <Key>N</Key>
          </Button>
          <Button onClick={() => say({ state: "later" })}>
            Later <Key>L</Key>
          </Button>
        </chakra.div>
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
          placeholder={`Look ${m.site} up by other words`}
          aria-label="Look up by words"
          {...form.register("typed")}
        />
        <Button type="submit">Look up</Button>
      </Form>
      <Trouble error={decide.error} />
      <Trouble error={found.error} retry={() => found.refetch()} />
      {found.isLoading && <Quiet>Asking {m.site}…</Quiet>}
      {found.data && list.length === 0 && (
        <Empty title={`${m.site} has nothing like it`}>
          Try other words above, ask for a new entry, or put it off.
        </Empty>
      )}
      {list.map((c, i) => (
        <Choice key={c.ref} candidate={c} n={i + 1} gtin={m.gtin} onChoose={() => say({ entry: c.ref })} />
      ))}
    </chakra.div>
  );
}

function Row(p: { brand: string; number: string; more?: string; units: string; children?: React.ReactNode }) {
  return (
    <chakra.div display="grid" gridTemplateColumns="96px 140px 72px minmax(0, 1fr)" gap="3" alignItems="center" mt="1">
      <span>{p.brand || <Quiet>no brand</Quiet>}</span>
      <span>
        {p.number ? <Code color="ink">{p.number}</Code> : <Quiet>no number</Quiet>}{" "}
        {p.more && <Word tone="bad">{p.more}</Word>}
      </span>
      <span>{p.units || <Quiet>single</Quiet>}</span>
      <chakra.span display="flex" gap="3" truncate>
        {p.children}
      </chakra.span>
    </chakra.div>
  );
}

function Choice({
  candidate: c,
  n,
  gtin,
  onChoose,
}: {
  candidate: Candidate;
  n: number;
  gtin: string;
  onChoose: () => void;
}) {
  const differs = new Set(c.differs);
  return (
    <chakra.article borderTopWidth="1px" borderColor="hair" py="2.5" aria-label={`Entry ${n}: ${c.title}`}>
      <chakra.div display="flex" gap="3" alignItems="flex-start">
        <Thumb digest={c.picture} size={132} alt={`As the entry shows it: ${c.title}`} />
        <chakra.div flex="1" minW="0">
          <chakra.div fontSize="15px" fontWeight="600">
            {c.title.split(/(\s+)/).map((w, i) =>
              differs.has(w.toLowerCase().replace(/[^\p{L}\p{N}]/gu, "")) ? (
                // biome-ignore lint/suspicious/noArrayIndexKey: words of one fixed title
                <chakra.mark key={i} bg="warn" color="ink" rounded="2px">
                  {w}
                </chakra.mark>
              ) : (
                w
              ),
            )}
          </chakra.div>
          <Row brand={c.brand} number={c.gtin} units={c.units > 1 ? `${c.units} in one` : ""}>
            <a href={c.page} target="_blank" rel="noreferrer">
              <Code textDecoration="underline">{c.ref}</Code>
            </a>
            {c.ours && <Word>ours already</Word>}
            {c.by_words && <Quiet>found by words</Quiet>}
            {gtin && c.gtin !== gtin && <Word tone="bad">other number</Word>}
          </Row>
          <chakra.div display="flex" gap="4" flexWrap="wrap" mt="1" fontSize="12.5px">
            {c.evidence.map((e) => (
              <chakra.span key={e.words} color={e.for ? "gain" : "loss"}>
                {e.for ? "for: " : "against: "}
                {e.words}
              </chakra.span>
            ))}
          </chakra.div>
        </chakra.div>
        <Button look={n === 1 ? "main" : undefined} onClick={onChoose}>
          It is this one {n < 10 && <Key>{n}</Key>}
        </Button>
      </chakra.div>
    </chakra.article>
  );
}
