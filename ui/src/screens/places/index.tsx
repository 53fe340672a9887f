import { chakra } from "@chakra-ui/react";
import { useSetListedOn } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Key, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Panel } from "../../parts/panel";
import { time } from "../../parts/when";
import { Connect, Make } from "./make";
import { One } from "./one";
import { type Place, usePlaces } from "./queries";

/** Places is where we sell: what each place can do, and what is missing before
 * one can sell there. */
export function Places() {
  const a = useAddress();
  const places = usePlaces();
  const { data: clock } = useClock();
  const rows = places.data ?? [];
  const opened = rows.find((p) => p.id === a.open);
  const adding = a.get("add");
  const add = (what: string | null) => a.put({ add: what, open: null });
  const lists = useSetListedOn((p: Place) => ({ path: { id: p.id }, body: { lists: !p.lists } }));
  useKeys({ m: () => add("made"), M: () => add("made"), g: () => add("gateway"), G: () => add("gateway") }, true, [
    ["M", "make a place without a gateway"],
    ["G", "connect a gateway"],
  ]);
  return (
    <>
      <Title title="Places" more="Where we sell, what each can do, and what is missing before one can sell there.">
        <Button onClick={() => add("gateway")}>
          Connect a gateway <Key>G</Key>
        </Button>
        <Button look={rows.length === 0 ? "main" : undefined} onClick={() => add("made")}>
          Make a place <Key>M</Key>
        </Button>
      </Title>
      <Trouble error={places.error ?? lists.error} retry={() => places.refetch()} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="Places"
          list={{ rows, total: rows.length, loading: places.isLoading }}
          open={a.open}
          onOpen={(p) => a.put({ open: String(p.id), add: null })}
          onAct={(p) => p.kind === "catalogue" && lists.mutate(p)}
          empty={
            <Empty title="No place yet">
              A place with a gateway brings its sites, categories and fees with it. One without is as good to begin
              with: give it a name and a country, and bring in the catalogue or the listing report that it lets you
              download.
            </Empty>
          }
          columns={opened || adding ? columns(clock?.now).filter((c) => narrow.has(c.key)) : columns(clock?.now)}
        />
        {opened && !adding && (
          <Panel label="One place" onClose={() => a.setOpen(null)}>
            <One key={opened.id} place={opened} onLists={() => lists.mutate(opened)} />
          </Panel>
        )}
        {adding && (
          <Panel label="Another place" onClose={() => add(null)}>
            {adding === "gateway" ? (
              <Connect onDone={() => add(null)} />
            ) : (
              <Make onDone={(id) => a.put({ open: String(id), add: null })} />
            )}
          </Panel>
        )}
      </chakra.div>
    </>
  );
}

const narrow = new Set(["name", "kind", "entries", "live", "missing"]);

const columns = (now: string | undefined): Column<Place>[] => [
  {
    key: "name",
    head: "Place",
    width: "minmax(150px, 1fr)",
    cell: (p) => (
      <chakra.span fontWeight="600">
        {p.name} {!p.lists && <Quiet fontWeight="400">not listed on</Quiet>}
      </chakra.span>
    ),
  },
  { key: "currency", head: "Currency", width: "76px", cell: (p) => <Code>{p.currency}</Code> },
  {
    key: "kind",
    head: "Known by",
    width: "96px",
    cell: (p) => (p.kind === "shop" ? "ourselves" : p.gateway ? "gateway" : "its files"),
  },
  { key: "sells", head: "Sells as", width: "104px", cell: (p) => <Quiet>{p.kind}</Quiet> },
  {
    key: "entries",
    head: "Entries",
    width: "74px",
    right: true,
    cell: (p) => <Code color="ink">{p.entries}</Code>,
  },
  { key: "live", head: "On sale", width: "74px", right: true, cell: (p) => <Code color="ink">{p.live}</Code> },
  {
    key: "untied",
    head: "Untied",
    width: "68px",
    right: true,
    cell: (p) => (p.untied > 0 ? <Code color="loss">{p.untied}</Code> : <Quiet>–</Quiet>),
  },
  { key: "waiting", head: "On Match", width: "78px", right: true, cell: (p) => <Code>{p.waiting || "–"}</Code> },
  { key: "read", head: "Read", width: "100px", cell: (p) => <Quiet>{time(p.read, now)}</Quiet> },
  {
    key: "missing",
    head: "Missing",
    width: "minmax(120px, 1fr)",
    cell: (p) =>
      p.missing.length > 0 ? (
        <Word tone="bad">{p.missing[0].words.split(":")[0]}</Word>
      ) : (
        <Word tone="good">nothing</Word>
      ),
  },
];
