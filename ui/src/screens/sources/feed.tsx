import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, Problem, read, type Schemas } from "../../api/client";
import { isOver } from "../../api/events";
import { useClock, useDo, useFeed, useParts, useRuns, useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { time } from "../../parts/clock";
import { Button, Code, Empty, Input, Key, Quiet, Select, Tabs, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Progress } from "../../parts/runs";
import { DataTable } from "../../parts/table";
import { words } from ".";

type FeedView = Schemas["FeedView"];

const fieldNames = [
  "ref",
  "identifier",
  "title",
  "cost",
  "currency",
  "stock",
  "brand",
  "category",
  "description",
  "mpn",
  "list_price",
  "units_per_item",
  "pictures",
  "link",
  "group",
  "colour",
  "size",
];

/** Feed is one delivery of a supplier: what was recognised before it is taken, what came of it after. */
export function Feed() {
  const id = Number(useParams().id);
  const { data: feed, error, refetch } = useFeed(id);
  const { data: runs } = useRuns();
  const { data: clock } = useClock();
  const run = runs?.find((r) => r.kind === "intake" && r.subject === id && !isOver(r));
  return (
    <>
      <Title
        title={feed ? fileName(feed.name) : "Feed"}
        more={
          feed && (
            <>
              {(feed.bytes / 1024).toFixed(0)} KiB, received {time(feed.received, clock?.now)}{" "}
              <Word>{words[feed.state] ?? feed.state}</Word>
            </>
          )
        }
      >
        {run && <Progress run={run} />}
        <Link to="/sources">
          <Button as="span">All sources</Button>
        </Link>
      </Title>
      <Trouble error={error} retry={refetch} />
      {feed?.error && <Trouble error={new Error(feed.error)} />}
      {feed && (feed.state === "looked" ? <BeforeTaking feed={feed} /> : <AfterReading feed={feed} />)}
    </>
  );
}

const fileName = (name: string) => (name.includes("://") ? name.replace(/^.*\/\/[^/]*\//, "").slice(-60) : name);

function BeforeTaking({ feed }: { feed: FeedView }) {
  const { data: sources } = useSources();
  const go = useNavigate();
  const [choice, setChoice] = useState<string>(feed.source_id ? String(feed.source_id) : "");
  const [fresh, setFresh] = useState({ supplier: "", currency: feed.look?.currency || "GBP" });
  const [columns, setColumns] = useState<Record<string, string>>({});
  const source = choice || (sources?.length === 0 ? "new" : "");
  const fieldOf = (c: { name: string; field: string }) => columns[c.name] ?? c.field;
  const used = new Set((feed.look?.columns ?? []).map(fieldOf));
  const missing = ["ref", "title", "cost"].filter((f) => !used.has(f));
  const take = useDo(
    async () => {
      let id = Number(source);
      if (source === "new") id = (await read(api.POST("/api/sources", { body: fresh }))).id;
      return read(
        api.POST("/api/feeds/{id}/take", {
          params: { path: { id: feed.id } },
          body: { source_id: id, columns: Object.keys(columns).length ? columns : undefined },
        }),
      );
    },
    "feeds",
    "sources",
    "runs",
  );
  const drop = useDo(
    () => read(api.POST("/api/feeds/{id}/discard", { params: { path: { id: feed.id } } })),
    "feeds",
    "sources",
  );
  const ready =
    missing.length === 0 && source !== "" && (source !== "new" || fresh.supplier.trim() !== "") && !take.isPending;
  const go_ = () => ready && take.mutate(undefined);
  useKeys({ ".": go_ });
  const wrong = take.error instanceof Problem ? take.error.fields : {};
  const look = feed.look;
  return (
    <>
      <chakra.div display="flex" gap="4" alignItems="flex-end" pb="3" flexWrap="wrap">
        <chakra.label>
          <chakra.span display="block" fontSize="12px" color="quiet">
            Whose is it
          </chakra.span>
          {feed.source_id ? (
            <chakra.span fontWeight="600" lineHeight="30px">
              {sources?.find((s) => s.id === feed.source_id)?.name}
            </chakra.span>
          ) : (
            <Select value={source} onChange={(e) => setChoice(e.target.value)}>
              <option value="" disabled>
                choose…
              </option>
              {sources?.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
              <option value="new">a new supplier</option>
            </Select>
          )}
        </chakra.label>
        {source === "new" && (
          <>
            <chakra.label>
              <chakra.span display="block" fontSize="12px" color="quiet">
                Supplier's name
              </chakra.span>
              <Input
                value={fresh.supplier}
                aria-invalid={!!wrong.supplier || !!wrong.name}
                onChange={(e) => setFresh({ ...fresh, supplier: e.target.value })}
              />
            </chakra.label>
            <chakra.label>
              <chakra.span display="block" fontSize="12px" color="quiet">
                Currency of its costs
              </chakra.span>
              <Input
                w="90px"
                value={fresh.currency}
                aria-invalid={!!wrong.currency}
                onChange={(e) => setFresh({ ...fresh, currency: e.target.value.toUpperCase() })}
              />
            </chakra.label>
          </>
        )}
        {look && (
          <Quiet pb="1">
            Recognised: {look.kind} text in {look.encoding.toUpperCase()}, parted by{" "}
            <Code>{look.delimiter === "\t" ? "tab" : look.delimiter}</Code>, header in row {look.header_row}
            {look.currency && `, costs in ${look.currency}`}
          </Quiet>
        )}
        <chakra.span flex="1" />
        <Button onClick={() => drop.mutate(undefined, { onSuccess: () => go("/sources") })}>Discard</Button>
        <Button look="main" disabled={!ready} onClick={go_}>
          Take this feed <Key>.</Key>
        </Button>
      </chakra.div>
      {missing.length > 0 && (
        <Trouble
          error={
            new Error(
              `No column is read as ${missing.join(" or ")} yet. Choose one below; a row without it would be set aside.`,
            )
          }
        />
      )}
      <Trouble error={take.error ?? drop.error} />
      <chakra.div flex="1" minH="0" overflowY="auto">
        <chakra.table w="100%" tableLayout="fixed">
          <thead>
            <chakra.tr color="quiet" fontSize="12.5px" textAlign="left" borderBottomWidth="1px" borderColor="hair">
              <chakra.th w="190px" h="32px" px="2">
                Column in the file
              </chakra.th>
              <chakra.th w="190px">Read as</chakra.th>
              <th>First values</th>
            </chakra.tr>
          </thead>
          <tbody>
            {look?.columns.map((c) => (
              <chakra.tr key={c.name} borderBottomWidth="1px" borderColor="hair" h="36px">
                <chakra.td px="2" fontWeight="600" truncate>
                  {c.name || <Quiet>no name</Quiet>}
                </chakra.td>
                <td>
                  <Select
                    aria-label={`${c.name} is read as`}
                    value={fieldOf(c)}
                    onChange={(e) => setColumns({ ...columns, [c.name]: e.target.value })}
                  >
                    <option value="">kept under its own name</option>
                    {fieldNames.map((f) => (
                      <option key={f} value={f}>
                        {f.replaceAll("_", " ")}
                      </option>
                    ))}
                  </Select>
                </td>
                <chakra.td truncate fontFamily="mono" fontSize="12.5px" color="quiet">
                  {c.samples.join("   ·   ")}
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      </chakra.div>
    </>
  );
}

function AfterReading({ feed }: { feed: FeedView }) {
  const a = useAddress();
  const tab = a.get("tab") || (feed.state === "taken" && feed.changed > 0 ? "changes" : "aside");
  const decide = useDo(
    (what: "take" | "discard"): Promise<unknown> =>
      what === "discard"
        ? read(api.POST("/api/feeds/{id}/discard", { params: { path: { id: feed.id } } }))
        : read(
            api.POST("/api/feeds/{id}/take", {
              params: { path: { id: feed.id } },
              body: { source_id: feed.source_id ?? 0, once: true },
            }),
          ),
    "feeds",
    "sources",
    "runs",
  );
  const figures: [string, number, boolean?][] = [
    ["rows read", feed.rows],
    ["new", feed.new],
    ["changed", feed.changed],
    ["same", feed.same],
    ["set aside", feed.set_aside, feed.set_aside > 0],
    ["gone since the last", feed.gone],
  ];
  const told = feed.state === "taken" || feed.state === "held";
  return (
    <>
      {feed.state === "held" && (
        <chakra.section
          aria-label="Why it is held"
          bg="warn"
          borderLeftWidth="3px"
          borderColor="loss"
          px="3"
          py="2"
          mb="3"
          display="flex"
          gap="3"
          alignItems="center"
        >
          <chakra.div flex="1">
            <chakra.div fontWeight="700">
              This feed is held. Nothing of it was taken; stock and costs are as they were.
            </chakra.div>
            {feed.held_for.map((h) => (
              <div key={h.guard}>{h.words}</div>
            ))}
          </chakra.div>
          <Button onClick={() => decide.mutate("discard")}>Discard it</Button>
          <Button look="main" onClick={() => decide.mutate("take")}>
            Take it this once
          </Button>
        </chakra.section>
      )}
      <Trouble error={decide.error} />
      {told && (
        <chakra.dl
          display="flex"
          gap="8"
          py="2"
          px="2"
          borderTopWidth="1px"
          borderBottomWidth="1px"
          borderColor="hair"
          mb="3"
        >
          {figures.map(([name, n, bad]) => (
            <div key={name}>
              <chakra.dd fontFamily="mono" fontSize="21px" fontWeight="600" color={bad ? "loss" : "ink"}>
                {n}
              </chakra.dd>
              <chakra.dt color="quiet" fontSize="12.5px">
                {feed.state === "held" && name !== "rows read" ? `would be ${name}` : name}
              </chakra.dt>
            </div>
          ))}
        </chakra.dl>
      )}
      {feed.state === "reading" && (
        <Empty title="Reading the feed">
          It is taken when all of it is read and checked; until then nothing changes.
        </Empty>
      )}
      {told && (
        <>
          <Tabs
            tabs={[
              { to: "?tab=aside", label: "Set aside", count: feed.set_aside, on: tab === "aside" },
              { to: "?tab=changes", label: "What changed", on: tab === "changes" },
            ]}
          />
          {tab === "aside" ? <Aside feed={feed} /> : <Changes feed={feed} />}
        </>
      )}
    </>
  );
}

function Aside({ feed }: { feed: FeedView }) {
  const list = useParts<Schemas["SetAsideView"]>(["feeds", feed.id, "aside", feed.state], (p) =>
    read(api.GET("/api/feeds/{id}/set-aside", { params: { path: { id: feed.id }, query: p } })),
  );
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      {list.total > 0 && (
        <chakra.div py="2">
          <chakra.a href={`/api/feeds/${feed.id}/set-aside.csv`} textDecoration="underline">
            Download these with their reasons
          </chakra.a>
        </chakra.div>
      )}
      <DataTable
        label="Rows set aside"
        rows={list.rows}
        total={list.total}
        onMore={list.more}
        loading={list.loading}
        id={(r) => r.id}
        empty={<Empty title="No row was set aside">Every row of this feed could be read.</Empty>}
        columns={[
          { key: "row", head: "Row", width: "70px", right: true, cell: (r) => <Code>{r.row}</Code> },
          { key: "column", head: "Column", width: "160px", cell: (r) => r.column },
          {
            key: "value",
            head: "Value",
            width: "200px",
            cell: (r) => (r.value ? <Code>{r.value}</Code> : <Quiet>empty</Quiet>),
          },
          { key: "reason", head: "Why it was not taken", width: "minmax(0, 1fr)", cell: (r) => r.reason },
        ]}
      />
    </>
  );
}

function Changes({ feed }: { feed: FeedView }) {
  const list = useParts<Schemas["ChangeRow"]>(["feeds", feed.id, "changes", feed.state], (p) =>
    read(api.GET("/api/feeds/{id}/changes", { params: { path: { id: feed.id }, query: p } })),
  );
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      <DataTable
        label="What changed"
        rows={list.rows}
        total={list.total}
        onMore={list.more}
        loading={list.loading}
        id={(r) => r.id}
        empty={<Empty title="Nothing changed">New rows have no before; they are counted above.</Empty>}
        columns={[
          { key: "title", head: "Product", width: "minmax(0, 1fr)", cell: (r) => r.title },
          { key: "ref", head: "Ref", width: "110px", cell: (r) => <Code>{r.ref}</Code> },
          { key: "field", head: "What", width: "120px", cell: (r) => r.field },
          { key: "before", head: "Before", width: "150px", right: true, cell: (r) => <Code>{r.before || "–"}</Code> },
          {
            key: "after",
            head: "After",
            width: "150px",
            right: true,
            cell: (r) => <chakra.span fontFamily="mono">{r.after || "–"}</chakra.span>,
          },
        ]}
      />
    </>
  );
}
