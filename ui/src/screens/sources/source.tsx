import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useFetchSource } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Bars } from "../../parts/charts";
import { Button, Code, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { time } from "../../parts/when";
import { tone, words } from "./words";

type Source = Schemas["SourceView"];
type FeedView = Schemas["FeedView"];

/** waiting is the source's feed that waits to be looked at. */
export const waiting = (s: Source) => s.feeds.find((f) => f.state === "looked" || f.state === "held");

/** few is how many feeds of a source are shown before somebody asks for more. */
const few = 3;

/** SourceBlock is one source: its health, its newest feeds, and what is done
 * with it; the next thing to do by the key of the main action. */
export function SourceBlock({ source: s, next, onSet }: { source: Source; next: boolean; onSet: () => void }) {
  const { data: clock } = useClock();
  const go = useNavigate();
  const fetchIt = useFetchSource((id: number) => ({ path: { id } }));
  const [all, setAll] = useState(false);
  const feeds = all ? s.feeds : s.feeds.slice(0, few);
  const waits = waiting(s);
  const look = () => waits && go(`/sources/feeds/${waits.id}`);
  const fetchNow = () => !fetchIt.isPending && fetchIt.mutate(s.id);
  useKeys({ ".": waits ? look : fetchNow }, next, [
    [".", waits ? `look at the feed of ${s.name} that waits` : `fetch ${s.name}`],
  ]);
  const cells = "104px 90px repeat(6, minmax(52px, 80px)) minmax(90px, 1fr)";
  return (
    <chakra.section aria-label={s.name} mb="5">
      <chakra.div
        display="flex"
        alignItems="center"
        flexWrap="wrap"
        columnGap="3"
        rowGap="1"
        px="2"
        py="1"
        minH="40px"
        bg="band"
        borderBottomWidth="1px"
        borderColor="hair"
      >
        <chakra.h2 fontWeight="700" fontSize="15px" whiteSpace="nowrap">
          {s.name}
        </chakra.h2>
        <Code truncate minW="0">
          {s.address || (s.kind === "page" ? "pages, one at a time" : "files by hand")}
        </Code>
        <Quiet whiteSpace="nowrap">
          {s.currency}
          {s.mode === "update" && ", updates"}
          {s.every > 0 && `, every ${s.every} min`}
          {s.taken ? `, taken ${time(s.taken, clock?.now)}` : ", nothing taken yet"}
          {s.same && `, nothing new ${time(s.same, clock?.now)}`}
        </Quiet>
        <chakra.span flex="1" />
        {s.silent && <Word tone="bad">silent: its stock counts as unknown</Word>}
        {s.late && s.due_by && <Word tone="bad">late: unknown from {time(s.due_by, clock?.now)}</Word>}
        {s.unsaid && <Word tone="bad">not priced: say what their costs come to</Word>}
        <Health feeds={s.feeds} />
        {waits && (
          <Button size="small" look="main" onClick={look}>
            {waits.state === "held" ? "Compare the held feed" : "Look at the new feed"} {next && <Key>.</Key>}
          </Button>
        )}
        <Button size="small" look={s.unsaid && !waits ? "main" : "plain"} onClick={onSet}>
          Settings
        </Button>
        {s.kind === "address" && (
          <Button
            size="small"
            look={next && !waits ? "main" : undefined}
            disabled={fetchIt.isPending}
            onClick={fetchNow}
          >
            Fetch now {next && !waits && <Key>.</Key>}
          </Button>
        )}
      </chakra.div>
      <Trouble error={fetchIt.error} />
      {s.feeds.length > 0 && (
        <chakra.div role="table" aria-label={`Feeds of ${s.name}`}>
          <chakra.div
            role="row"
            display="grid"
            gridTemplateColumns={cells}
            px="2"
            h="28px"
            alignItems="center"
            color="quiet"
            fontSize="12px"
            fontWeight="600"
          >
            {["Received", "State", "Rows", "New", "Changed", "Same", "Set aside", "Gone", "More"].map((h, i) => (
              <chakra.span
                key={h}
                role="columnheader"
                textAlign={i > 1 && i < 8 ? "right" : "left"}
                pl={i === 8 ? "6" : "0"}
              >
                {h}
              </chakra.span>
            ))}
          </chakra.div>
          {feeds.map((f) => (
            <chakra.div
              key={f.id}
              role="row"
              display="grid"
              gridTemplateColumns={cells}
              px="2"
              h="34px"
              alignItems="center"
              borderTopWidth="1px"
              borderColor="hair"
            >
              <span role="cell">{time(f.received, clock?.now)}</span>
              <span role="cell">
                <Word tone={tone(f.state)}>{words[f.state] ?? f.state}</Word>
              </span>
              {(["rows", "new", "changed", "same", "set_aside", "gone"] as const).map((k) => (
                <chakra.span
                  key={k}
                  role="cell"
                  textAlign="right"
                  fontFamily="mono"
                  color={k === "set_aside" && f[k] > 0 ? "loss" : undefined}
                >
                  {f.state === "taken" || f.state === "held" ? f[k] : "–"}
                </chakra.span>
              ))}
              <chakra.span role="cell" pl="6" truncate color={f.error ? "loss" : "quiet"}>
                {f.error ||
                  (f.look || f.state === "taken" || f.state === "held" || f.state === "looked" ? (
                    <Link to={`/sources/feeds/${f.id}`}>
                      <chakra.span textDecoration="underline">open</chakra.span>
                    </Link>
                  ) : null)}
              </chakra.span>
            </chakra.div>
          ))}
          {s.feeds.length > few && (
            <Button look="plain" size="small" my="1" aria-expanded={all} onClick={() => setAll(!all)}>
              {all ? "Only the newest" : `The ${s.feeds.length - few} before them`}
            </Button>
          )}
        </chakra.div>
      )}
    </chakra.section>
  );
}

/** Health draws how many rows each feed had, oldest first; a held or failed one stands hollow. */
function Health({ feeds }: { feeds: FeedView[] }) {
  const list = feeds.filter((f) => f.state === "taken" || f.state === "held" || f.state === "failed").reverse();
  if (list.length < 2) return null;
  return (
    <Bars
      label={`Rows of the last ${list.length} feeds, ${time(list[0].received)} to ${time(list[list.length - 1].received)}`}
      width={Math.min(list.length * 7, 240)}
      height={22}
      bins={list.map((f) => ({ name: `feed ${f.id}`, edge: "", count: f.rows, hollow: f.state !== "taken" }))}
    />
  );
}
