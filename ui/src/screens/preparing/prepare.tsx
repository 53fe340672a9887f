import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useAdoptSupplierContent } from "../../api/operations";
import { useCounts, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Key, Quiet, Select, Title, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { writes } from "../../parts/kinds";
import { tone } from "../../parts/listings";
import { Money } from "../../parts/money";
import { Panel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { Tabs } from "../../parts/tabs";
import { toggled } from "../../parts/toggled";
import { Add } from "./add";
import { Asked } from "./asked";
import { Defaults } from "./defaults";
import { PicturesOfAll } from "./pictures/ofall";
import { type Row, useLacking, usePreparations } from "./queries";
import { SameOfAll } from "./sameofall";
import { Shown } from "./shown";
import { sayable } from "./words";

const says = {
  lacking: "What a listing of your own needs before it goes up; first those where one thing done brings most.",
  ready: "They have all their place needs; with a price and stock they are sent from Send.",
  changed: "Suppliers changed what you had said otherwise; yours stands until you take theirs.",
  add: "Products of yours that this site has no listing of yet.",
  defaults: "What holds for all listings of a category unless one says otherwise.",
  asked: "What each category asks for, as its gateway told it, its sheet says or somebody wrote down.",
};

type Tab = keyof typeof says;

/** writing are the sites whose listings may be ours to write: those of each
 * seller's own, then shared catalogues, where a new entry is. */
export function writing(sites: Schemas["SiteView"][] | undefined) {
  const of = (kind: string) => sites?.filter((s) => s.kind === kind) ?? [];
  return [...of("own listings"), ...of("sheet"), ...of("by hand"), ...of("catalogue").filter((s) => s.lists)];
}

/** Prepare is where listings of our own get what their places ask for. */
export function Prepare() {
  const a = useAddress();
  const go = useNavigate();
  const { data: c } = useCounts();
  useKeys({ n: () => go("/prepare/new") }, true, [["n", "make a product from nothing"]]);
  const { data: sites } = useSites();
  const own = writing(sites);
  const tab = (a.get("tab") in says ? a.get("tab") : "lacking") as Tab;
  const all = tab === "lacking" || tab === "ready" || tab === "changed"; // the others are about one site
  const site = Number(a.get("site")) || (own.length === 1 || !all ? (own[0]?.id ?? 0) : 0);
  const to = (t: Tab) =>
    `?${new URLSearchParams({ ...(t === "lacking" ? {} : { tab: t }), ...(site ? { site: String(site) } : {}) })}`;
  return (
    <>
      <Title title="Prepare" more={says[tab]}>
        <Button onClick={() => go("/prepare/new")}>
          Make a product <Key>n</Key>
        </Button>
        {own.length > 1 && (
          <Select
            w="190px"
            h="32px"
            aria-label="Site"
            value={site || ""}
            onChange={(e) => a.put({ site: e.currentTarget.value })}
          >
            {all && <option value="">All sites</option>}
            {own.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </Select>
        )}
      </Title>
      {sites && own.length === 0 ? (
        <Empty title="No place wants a listing of your own yet">
          Where you sell on a place's own entries, they have their words and pictures. Connect a place where each seller
          writes listings, under <Link to="/places">Places</Link>, and what it asks for is prepared here.
        </Empty>
      ) : (
        <Tabs
          label="Prepare"
          tabs={[
            { to: to("lacking"), label: "Lacking", count: c?.incomplete, on: tab === "lacking" },
            { to: to("ready"), label: "Complete", on: tab === "ready" },
            { to: to("changed"), label: "Changed by suppliers", on: tab === "changed" },
            { to: to("add"), label: "List more", on: tab === "add" },
            { to: to("defaults"), label: "Defaults", on: tab === "defaults" },
            { to: to("asked"), label: "What they ask", on: tab === "asked" },
          ]}
        >
          {tab === "add" ? (
            <Add sites={own.filter((s) => writes(s.kind))} site={site} />
          ) : tab === "defaults" ? (
            <Defaults sites={own} site={site} />
          ) : tab === "asked" ? (
            <Asked sites={own} site={site} />
          ) : (
            <Queue key={tab} site={site} part={tab === "ready" ? "ready" : tab === "changed" ? "changed" : ""} />
          )}
        </Tabs>
      )}
    </>
  );
}

const columns: Column<Row>[] = [
  {
    key: "title",
    head: "As it would go up",
    width: "minmax(200px, 1.2fr)",
    sort: "title",
    cell: (r) => <Pictured digest={r.picture}>{r.title || <Quiet>{r.product}</Quiet>}</Pictured>,
  },
  { key: "site", head: "Site", width: "130px", cell: (r) => <Quiet>{r.site}</Quiet> },
  { key: "category", head: "Category", width: "130px", cell: (r) => r.category || <Quiet>none yet</Quiet> },
  {
    key: "lacks",
    head: "What it lacks",
    width: "minmax(180px, 1fr)",
    sort: "lacks",
    cell: (r) => (
      <chakra.span truncate title={r.lacks.join("; ")}>
        {r.lacks.length > 0 ? r.lacks.join("; ") : <Quiet>nothing</Quiet>}
      </chakra.span>
    ),
  },
  {
    key: "done",
    head: "Done",
    width: "72px",
    right: true,
    cell: (r) => (
      <Code color="ink" aria-label={`${r.done} of ${r.needed} done`}>
        {r.done}/{r.needed}
      </Code>
    ),
  },
  {
    key: "price",
    head: "Price",
    width: "110px",
    right: true,
    cell: (r) => <Money minor={r.price ?? undefined} currency={r.currency} unit fontWeight="600" />,
  },
  {
    key: "profit",
    head: "Left",
    width: "80px",
    right: true,
    sort: "profit",
    cell: (r) => <Money minor={r.profit ?? undefined} currency={r.currency} sign fontWeight="600" />,
  },
  { key: "state", head: "State", width: "96px", cell: (r) => <Word tone={tone(r.state)}>{r.state}</Word> },
];

/** Queue are listings by what they lack. */
function Queue({ site, part }: { site: number; part: "" | "ready" | "changed" }) {
  const ready = part === "ready";
  const changed = part === "changed";
  const a = useAddress();
  const go = useNavigate();
  const words = a.get("words");
  const list = usePreparations(site, part, words, a.sorting);
  const { data: lacking } = useLacking(site);
  const [chosen, setChosen] = useState(new Set<number>());
  const [same, setSame] = useState<string | null>(null);
  const open = (r: Row) => go(`/prepare/${r.id}`);
  const toSheet = () =>
    go(`/prepare/sheet?${new URLSearchParams({ site: String(site || ""), all: ready ? "yes" : "" })}`);
  const some = part === "" && chosen.size > 0;
  const adopt = useAdoptSupplierContent((ids: number[]) => ({ body: { ids } }));
  const takeTheirs = () => chosen.size > 0 && adopt.mutate([...chosen], { onSuccess: () => setChosen(new Set()) });
  useKeys(
    {
      g: toSheet,
      ".": () => changed && takeTheirs(),
      s: () => some && setSame(""),
      p: () => some && setSame("pictures"),
    },
    true,
    [
      ["g", "as a sheet"],
      ["s", "say the same of those chosen"],
      ["p", "do the same to their pictures"],
    ],
  );
  return (
    <>
      <chakra.div display="flex" gap="2" alignItems="center" py="2" flexWrap="wrap">
        {part === "" &&
          lacking?.slice(0, 5).map((l) =>
            sayable(l.field) ? (
              <Button
                key={l.words}
                size="small"
                aria-pressed={same === l.field}
                title="Say the same of those chosen, or of all that lack it here"
                onClick={() => setSame(l.field)}
              >
                {l.words} <Code color="ink">{l.listings}</Code>
              </Button>
            ) : (
              <Quiet key={l.words} fontSize="12.5px">
                {l.words} <Code>{l.listings}</Code>
              </Quiet>
            ),
          )}
        <chakra.div flex="1" />
        <Button size="small" onClick={toSheet}>
          As a sheet <Key>g</Key>
        </Button>
        {chosen.size > 0 && (
          <>
            <Button size="small" onClick={() => setChosen(new Set())}>
              Choose none
            </Button>
            {changed && (
              <Button size="small" look="main" disabled={adopt.isPending} onClick={takeTheirs}>
                Take theirs of {chosen.size} <Key>.</Key>
              </Button>
            )}
            <Button size="small" onClick={() => setSame("shown")}>
              When shown
            </Button>
            <Button size="small" onClick={() => setSame("pictures")}>
              Their pictures <Key>p</Key>
            </Button>
            <Button size="small" look={changed ? undefined : "main"} onClick={() => setSame("")}>
              Say the same of {chosen.size} <Key>s</Key>
            </Button>
          </>
        )}
        <Input
          w="220px"
          h="28px"
          type="search"
          aria-label="Words in it"
          placeholder="Words in it"
          defaultValue={words}
          onChange={(e) => a.put({ words: e.target.value })}
        />
      </chakra.div>
      <Trouble error={list.error ?? adopt.error} retry={list.retry} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label={
            ready
              ? "Listings that lack nothing"
              : changed
                ? "Listings that suppliers changed"
                : "Listings that lack something"
          }
          list={list}
          selected={chosen}
          onSelect={(r) => setChosen((old) => toggled(old, r.id))}
          onOpen={open}
          sorting={a.sorting ?? { sort: "worth", desc: true }}
          onSort={a.setSorting}
          columns={same === null ? columns : columns.filter((x) => ["title", "lacks", "done"].includes(x.key))}
          empty={
            changed ? (
              <Empty title="No supplier changed what you said">
                Where one does, what it says now stands here beside yours, and nothing of yours is written over.
              </Empty>
            ) : ready ? (
              <Empty title="Nothing is complete yet">A listing with all its place needs stands here.</Empty>
            ) : (
              <Empty title="Nothing lacks anything">
                List more products under <Link to={`?tab=add${site ? `&site=${site}` : ""}`}>List more</Link>; what they
                lack stands here.
              </Empty>
            )
          }
        />
        {same === "shown" ? (
          <Panel label="When many are shown" onClose={() => setSame(null)}>
            <Shown ids={[...chosen]} how={{}} onDone={() => setSame(null)} />
          </Panel>
        ) : same === "pictures" ? (
          <Panel label="The pictures of many" onClose={() => setSame(null)}>
            <PicturesOfAll ids={[...chosen]} onDone={() => setSame(null)} />
          </Panel>
        ) : (
          same !== null && (
            <Panel label="The same of many" onClose={() => setSame(null)}>
              <SameOfAll
                key={same}
                field={same}
                fields={[...new Set([...(lacking?.map((l) => l.field).filter(sayable) ?? []), "title.parts"])]}
                ids={chosen.size > 0 ? [...chosen] : list.rows.map((r) => r.id)}
                onDone={() => {
                  setSame(null);
                  setChosen(new Set());
                }}
              />
            </Panel>
          )
        )}
      </chakra.div>
    </>
  );
}
