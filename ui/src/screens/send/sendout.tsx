import { chakra } from "@chakra-ui/react";
import { useNavigate, useParams } from "react-router";
import { api, read, type Schemas } from "../../api/client";
import { useClock, useDo, useParts, useSendOut } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { time } from "../../parts/clock";
import { Button, Code, Empty, Quiet, Tabs, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { ListingPanel } from "../../parts/panel";
import { type Column, DataTable } from "../../parts/table";

/** SendOut follows one batch: how far it is, and what the marketplace says of each line. */
export function SendOut() {
  const id = Number(useParams().id);
  const a = useAddress();
  const go = useNavigate();
  const state = a.get("state");
  const { data: o, error, refetch } = useSendOut(id);
  const { data: clock } = useClock();
  const list = useParts<Schemas["SendLineRow"]>(["sendouts", id, "lines", state], (p) =>
    read(api.GET("/api/send-outs/{id}/lines", { params: { path: { id }, query: { ...p, state } } })),
  );
  const again = useDo(
    () => read(api.POST("/api/send-outs/{id}/again", { params: { path: { id } } })),
    "sendouts",
    "runs",
  );
  const giveUp = useDo(
    () => read(api.POST("/api/send-outs/{id}/give-up", { params: { path: { id } } })),
    "sendouts",
    "listings",
  );
  const opened = list.rows.find((x) => x.id === a.open);
  useKeys({ Escape: () => go("/send?tab=out") }, !opened);
  const answered = o ? o.lines - o.waiting : 0;
  const part = (n: number, colour: string) =>
    o && n > 0 && <chakra.div h="100%" bg={colour} style={{ width: `${(100 * n) / o.lines}%` }} />;
  return (
    <>
      <Title
        title={o ? `${o.plan_id ? "Changes" : "Listings"} to ${o.site}` : "Send-out"}
        more={
          o &&
          `begun ${time(o.created, clock?.now)}${o.batch ? `, their batch ${o.batch}` : ""}${o.done ? `, answered ${time(o.done, clock?.now)}` : ""}`
        }
      >
        <Button onClick={() => go("/send?tab=out")}>All send-outs</Button>
      </Title>
      <Trouble error={error} retry={refetch} />
      {o?.error && (
        <chakra.div
          role="alert"
          bg="warn"
          borderLeftWidth="3px"
          borderColor="loss"
          px="3"
          py="2"
          mb="2"
          display="flex"
          gap="3"
          alignItems="center"
        >
          <chakra.div flex="1">
            {o.error}. Trying again sends nothing twice: each line carries a key that {o.site} knows.
          </chakra.div>
          {o.state === "waiting" && (
            <Button size="small" onClick={() => giveUp.mutate(undefined)}>
              Give it up
            </Button>
          )}
          <Button size="small" look="main" onClick={() => again.mutate(undefined)}>
            Try again
          </Button>
        </chakra.div>
      )}
      <Trouble error={again.error ?? giveUp.error} />
      {o && (
        <chakra.section aria-label="How far it is" pb="3">
          <chakra.div display="flex" gap="6" alignItems="baseline" mb="1">
            <chakra.span fontFamily="mono" fontSize="21px" fontWeight="600">
              {answered} / {o.lines}
            </chakra.span>
            <span>answered</span>
            <chakra.span color="gain" fontWeight="600">
              {o.confirmed} confirmed
            </chakra.span>
            <chakra.span color={o.refused ? "loss" : "quiet"} fontWeight="600">
              {o.refused} refused
            </chakra.span>
            {o.given_up > 0 && <chakra.span color="loss">{o.given_up} given up</chakra.span>}
            {o.waiting > 0 && <Quiet>{o.waiting} with the marketplace</Quiet>}
          </chakra.div>
          <chakra.div
            h="8px"
            display="flex"
            bg="band"
            rounded="2px"
            overflow="hidden"
            role="progressbar"
            aria-label="Lines answered"
            aria-valuenow={answered}
            aria-valuemax={o.lines}
          >
            {part(o.confirmed, "gain")}
            {part(o.refused + o.given_up, "loss")}
          </chakra.div>
        </chakra.section>
      )}
      <Tabs
        tabs={[
          { to: "?", label: "All lines", count: o?.lines, on: state === "" },
          { to: "?state=refused", label: "Refused", count: o?.refused, on: state === "refused" },
        ]}
      />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <DataTable
          label="Lines of this send-out"
          list={list}
          empty={<Empty title="No such lines">None of this send-out's lines is in this state.</Empty>}
          open={a.open}
          onOpen={(x) =>
            x.state === "refused" && !o?.plan_id ? go(`/send?tab=refused&open=${x.listing_id}`) : a.setOpen(x.id)
          }
          columns={opened ? columns.filter((c) => !["sku", "words", "page"].includes(c.key)) : columns}
        />
        {opened && <ListingPanel key={opened.id} id={opened.listing_id} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

const columns: Column<Schemas["SendLineRow"]>[] = [
  { key: "title", head: "Product", width: "minmax(180px, 1fr)", cell: (x) => x.title },
  { key: "sku", head: "SKU", width: "90px", cell: (x) => <Code>{x.sku}</Code> },
  {
    key: "price",
    head: "Price",
    width: "110px",
    right: true,
    cell: (x) => (x.price == null ? <Quiet>as it is</Quiet> : <Money minor={x.price} currency={x.currency} unit />),
  },
  {
    key: "quantity",
    head: "Quantity",
    width: "90px",
    right: true,
    cell: (x) => (x.quantity == null ? <Quiet>as it is</Quiet> : <Code color="ink">{x.quantity}</Code>),
  },
  {
    key: "state",
    head: "Outcome",
    width: "100px",
    cell: (x) => (
      <Word
        tone={x.state === "refused" || x.state === "given up" ? "bad" : x.state === "confirmed" ? "good" : undefined}
      >
        {x.state}
      </Word>
    ),
  },
  {
    key: "words",
    head: "What the marketplace says",
    width: "minmax(200px, 2fr)",
    cell: (x) => <chakra.span fontSize="12.5px">{x.words}</chakra.span>,
  },
  {
    key: "page",
    head: "",
    width: "70px",
    cell: (x) =>
      x.state === "confirmed" && x.page ? (
        <chakra.a href={x.page} target="_blank" rel="noreferrer" textDecoration="underline">
          page
        </chakra.a>
      ) : null,
  },
];
