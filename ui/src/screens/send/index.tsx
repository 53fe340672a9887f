import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, read, type Schemas } from "../../api/client";
import { useClock, useCounts, useDo, useListings, useParts } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { time } from "../../parts/clock";
import { Button, Code, Empty, Key, Tabs, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { column } from "../../parts/listings";
import { ListingPanel } from "../../parts/panel";
import { DataTable } from "../../parts/table";

type SendOutRow = Schemas["SendOutRow"];

/** Send puts listings up: those that are ready, those that were refused, and what became of each send-out. */
export function Send() {
  const a = useAddress();
  const { data: counts } = useCounts();
  const tab = a.get("tab") || "ready";
  return <>{tab === "out" ? <SendOuts counts={counts} /> : <Ready key={tab} tab={tab} counts={counts} />}</>;
}

function SendTabs({ tab, counts }: { tab: string; counts?: Schemas["Counts"] }) {
  return (
    <Tabs
      tabs={[
        { to: "?", label: "Ready", count: counts?.ready, on: tab === "ready" },
        { to: "?tab=refused", label: "Refused", count: counts?.refused, on: tab === "refused" },
        { to: "?tab=out", label: "Send-outs", count: counts?.sends_stuck, on: tab === "out" },
      ]}
    />
  );
}

function Ready({ tab, counts }: { tab: string; counts?: Schemas["Counts"] }) {
  const a = useAddress();
  const go = useNavigate();
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const list = useListings({ state: tab, ...a.sorting });
  const send = useDo(
    (listings: number[] | undefined) => read(api.POST("/api/send-outs", { body: { listings } })),
    "listings",
    "sendouts",
    "runs",
  );
  const refused = tab === "refused";
  const n = chosen.size || (refused ? 0 : list.total);
  const act = () => {
    if (n === 0 || send.isPending) return;
    send.mutate(chosen.size ? [...chosen] : undefined, {
      onSuccess: (s) => {
        setChosen(new Set());
        if (s.send_outs.length) go(s.send_outs.length === 1 ? `/send/${s.send_outs[0]}` : "/send?tab=out");
      },
    });
  };
  useKeys({ ".": act });
  return (
    <>
      <Title
        title="Send"
        more={
          refused
            ? "The marketplace's words stand beside each; send again once the reason is gone."
            : "Priced, in stock, not on sale yet."
        }
      >
        {chosen.size > 0 && <Button onClick={() => setChosen(new Set())}>Choose none</Button>}
        <Button look="main" disabled={n === 0 || send.isPending} onClick={act}>
          {n === 0
            ? "Choose which to send"
            : `Send ${n}${chosen.size || refused ? "" : " ready"} ${n === 1 ? "listing" : "listings"}`}{" "}
          <Key>.</Key>
        </Button>
      </Title>
      <SendTabs tab={tab} counts={counts} />
      <Trouble error={send.error ?? list.error} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <DataTable
          label={refused ? "Refused listings" : "Ready listings"}
          list={list}
          selected={chosen}
          onSelect={(l) => {
            const next = new Set(chosen);
            if (!next.delete(l.id)) next.add(l.id);
            setChosen(next);
          }}
          open={a.open}
          onOpen={(l) => a.setOpen(l.id)}
          sorting={a.sorting ?? { sort: "title", desc: false }}
          onSort={a.setSorting}
          empty={
            refused ? (
              <Empty title="Nothing was refused">
                A listing that a marketplace refuses stands here with its words.
              </Empty>
            ) : (
              <Empty title="Nothing is ready">
                A matched product with a price and stock to offer stands here until it is sent.
              </Empty>
            )
          }
          columns={
            a.open
              ? [column.title, column.price, column.quantity]
              : refused
                ? [
                    column.title,
                    column.sku,
                    column.price,
                    column.quantity,
                    { ...column.why, head: "What the marketplace says", width: "minmax(240px, 1.4fr)" },
                  ]
                : [
                    column.title,
                    column.sku,
                    column.landed,
                    column.strip,
                    column.price,
                    column.left,
                    column.stock,
                    column.quantity,
                  ]
          }
        />
        {a.open && <ListingPanel key={a.open} id={a.open} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

function SendOuts({ counts }: { counts?: Schemas["Counts"] }) {
  const go = useNavigate();
  const { data: clock } = useClock();
  const list = useParts<SendOutRow>(["sendouts", "list"], (p) =>
    read(api.GET("/api/send-outs", { params: { query: p } })),
  );
  const figure = (key: "lines" | "waiting" | "confirmed" | "refused" | "given_up", head: string) => ({
    key,
    head,
    width: "90px",
    right: true,
    cell: (o: SendOutRow) => <Code color={key === "refused" && o[key] ? "loss" : "ink"}>{o[key]}</Code>,
  });
  return (
    <>
      <Title title="Send" more="What went out, and what came back line by line." />
      <SendTabs tab="out" counts={counts} />
      <Trouble error={list.error} retry={list.retry} />
      <DataTable
        label="Send-outs"
        list={list}
        onOpen={(o) => go(`/send/${o.id}`)}
        empty={
          <Empty title="Nothing was sent yet">
            Each batch that goes to a marketplace stands here, with an outcome for each of its lines.
          </Empty>
        }
        columns={[
          { key: "created", head: "Begun", width: "120px", cell: (o) => time(o.created, clock?.now) },
          { key: "site", head: "To", width: "160px", cell: (o) => o.site },
          { key: "what", head: "What", width: "130px", cell: (o) => (o.plan_id ? "changes" : "new listings") },
          figure("lines", "Lines"),
          figure("waiting", "Waiting"),
          figure("confirmed", "Confirmed"),
          figure("refused", "Refused"),
          figure("given_up", "Given up"),
          {
            key: "state",
            head: "",
            width: "minmax(0, 1fr)",
            cell: (o) =>
              o.error ? (
                <chakra.span color="loss">{o.error}</chakra.span>
              ) : (
                <Word>{o.state === "done" ? "answered" : o.state}</Word>
              ),
          },
        ]}
      />
    </>
  );
}
