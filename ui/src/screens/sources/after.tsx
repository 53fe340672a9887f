import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { discardFeed, listFeedChanges, takeFeed } from "../../api/operations";
import { useDo } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { Next } from "../../parts/next";
import { Tabs } from "../../parts/tabs";
import { Aside } from "./aside";
import { ItemPanel } from "./item";

type FeedView = Schemas["FeedView"];

/** AfterReading is what came of a feed: why it is held, or what it changed and what it left out. */
export function AfterReading({ feed }: { feed: FeedView }) {
  const a = useAddress();
  const tab = a.get("tab") || (feed.state === "taken" && feed.changed > 0 ? "changes" : "aside");
  const decide = useDo(
    (what: "take" | "discard"): Promise<unknown> =>
      what === "discard"
        ? discardFeed({ path: { id: feed.id } })
        : takeFeed({ path: { id: feed.id }, body: { source_id: feed.source_id ?? 0, once: true } }),
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
      {feed.state === "taken" && <Next keyed />}
      {feed.state === "reading" && (
        <Empty title="Reading the feed">
          It is taken when all of it is read and checked; until then nothing changes.
        </Empty>
      )}
      {told && (
        <Tabs
          label="What came of it"
          tabs={[
            { to: "?tab=aside", label: "Set aside", count: feed.set_aside, on: tab === "aside" },
            { to: "?tab=changes", label: "What changed", on: tab === "changes" },
          ]}
        >
          {tab === "aside" ? <Aside feed={feed} /> : <Changes feed={feed} />}
        </Tabs>
      )}
    </>
  );
}

function Changes({ feed }: { feed: FeedView }) {
  const a = useAddress();
  const list = useParts(listFeedChanges, { path: { id: feed.id } });
  const opened = list.rows.find((r) => r.id === a.open);
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="What changed"
          list={list}
          open={a.open}
          onOpen={(r) => a.setOpen(r.id)}
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
        {opened && <ItemPanel key={opened.id} id={opened.supplier_product_id} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}
