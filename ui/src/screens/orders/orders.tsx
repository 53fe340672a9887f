import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import {
  listOrderLines,
  readOrders,
  useCancelOrderLines,
  useMarkOrderLinesSent,
  useSettleOrderLines,
} from "../../api/operations";
import { useClock, useCounts, useDo, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Key, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Pictured } from "../../parts/picture";
import { Tabs } from "../../parts/tabs";
import { toggled } from "../../parts/toggled";
import { time } from "../../parts/when";
import { Books } from "./books";
import { Bring } from "./bring";
import { Earned } from "./earned";
import { Purchases } from "./purchases";
import { Split } from "./split";

type Row = Schemas["LineRow"];

const says = {
  buy: "Sold, and promised to its buyers: nothing of it is offered any more.",
  send: "Bought. Say by whom each goes: its place is told.",
  problems: "Something only you can settle.",
  all: "Everything that was sold, the newest first.",
  purchases: "What was bought, with the order each supplier is given.",
  earned: "What is left of what was sold, as far as is known.",
  books: "What was sold by country and tax rate; a month that is closed stays as it is.",
};

type Part = keyof typeof says;

/** Orders are what was sold: to buy, to mark as sent, and what needs a person. */
export function Orders() {
  const a = useAddress();
  const { data: c } = useCounts();
  const part = (a.get("part") in says ? a.get("part") : "buy") as Part;
  const { data: sites } = useSites();
  const [bringing, setBringing] = useState(false);
  const again = useDo(async () => {
    for (const s of sites?.filter((s) => s.lists && s.address) ?? []) await readOrders({ path: { id: s.id } });
  });
  return (
    <>
      <Title title="Orders" more={says[part]}>
        <Button aria-expanded={bringing} onClick={() => setBringing(!bringing)}>
          Bring in…
        </Button>
        <Button disabled={again.isPending} onClick={() => again.mutate(undefined)}>
          Read them now
        </Button>
      </Title>
      <Trouble error={again.error} />
      {bringing && <Bring onDone={() => setBringing(false)} />}
      <Tabs
        label="Orders"
        tabs={[
          { to: "?", label: "To buy", count: c?.orders_buy, on: part === "buy" },
          { to: "?part=send", label: "To mark as sent", count: c?.orders_send, on: part === "send" },
          { to: "?part=problems", label: "Problems", count: c?.orders_wrong, on: part === "problems" },
          { to: "?part=purchases", label: "Purchases", on: part === "purchases" },
          { to: "?part=all", label: "All", on: part === "all" },
          { to: "?part=earned", label: "Earned", on: part === "earned" },
          { to: "?part=books", label: "Books", on: part === "books" },
        ]}
      >
        {part === "purchases" && <Purchases />}
        {part === "earned" && <Earned />}
        {part === "books" && <Books />}
        {part !== "purchases" && part !== "earned" && part !== "books" && <Lines key={part} part={part} />}
      </Tabs>
    </>
  );
}

/** Lines are the lines of orders of one part, with what is done next with them. */
function Lines({ part }: { part: Exclude<Part, "purchases" | "earned" | "books"> }) {
  const a = useAddress();
  const go = useNavigate();
  const { data: clock } = useClock();
  const [chosen, setChosen] = useState(new Set<number>());
  const [buying, setBuying] = useState<number[]>();
  const of = part === "all" ? soldIn(a.get) : {};
  const list = useParts(listOrderLines, { query: { part, ...a.sorting, ...of } });
  const n = chosen.size || Math.min(list.total, most);
  const buy = () => n > 0 && setBuying(chosen.size ? [...chosen] : list.rows.slice(0, most).map((r) => r.id));
  useKeys({ ".": buy }, part === "buy" && !buying, part === "buy" ? [[".", "see how they are best bought"]] : []);
  if (buying)
    return (
      <Split
        lines={buying}
        onClose={() => {
          setBuying(undefined);
          setChosen(new Set());
        }}
      />
    );
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" py="2" minH="48px">
        {part === "buy" && (
          <Button look="main" disabled={n === 0} onClick={buy}>
            {n === 0 ? "Nothing to buy" : `How ${n === 1 ? "it is" : `these ${n} are`} best bought`} <Key>.</Key>
          </Button>
        )}
        {part === "send" && <Sent lines={[...chosen]} onDone={() => setChosen(new Set())} />}
        {part === "problems" && <Settle lines={[...chosen]} onDone={() => setChosen(new Set())} />}
        {part === "buy" && chosen.size > 0 && <CallOff lines={[...chosen]} onDone={() => setChosen(new Set())} />}
        {chosen.size > 0 && <Button onClick={() => setChosen(new Set())}>Choose none</Button>}
        {part === "all" && a.get("from") && (
          <>
            <Quiet>
              Placed from {a.get("from")} to {a.get("to")}
            </Quiet>
            <Button size="small" onClick={() => go("/orders?part=all")}>
              All days
            </Button>
            <Button size="small" onClick={() => go(-1)}>
              Back to what was earned
            </Button>
          </>
        )}
      </chakra.div>
      <Trouble error={list.error} retry={list.retry} />
      <Grid
        label="Lines of orders"
        list={list}
        selected={part === "all" ? undefined : chosen}
        onSelect={part === "all" ? undefined : (r) => setChosen(toggled(chosen, r.id))}
        onOpen={(r) => go(`/orders/${r.order_id}`)}
        sorting={a.sorting ?? { sort: "placed", desc: part === "all" || part === "problems" }}
        onSort={a.setSorting}
        empty={
          <Empty title={part === "problems" ? "Nothing is wrong" : "Nothing waits here"}>
            What is sold stands here within minutes, from every place that can be asked; orders of others are typed in.
          </Empty>
        }
        columns={columns(part, clock?.now)}
      />
    </>
  );
}

const most = 200;

/** soldIn are the days and the one thing that a figure was opened into, from the address. */
function soldIn(get: (name: string) => string) {
  const number = (name: string) => Number(get(name)) || undefined;
  return {
    from: get("from") || undefined,
    to: get("to") || undefined,
    site: number("site"),
    supplier: number("supplier"),
    product: number("product"),
    category: get("category") || undefined,
  };
}

function Sent({ lines, onDone }: { lines: number[]; onDone: () => void }) {
  const [carrier, setCarrier] = useState("");
  const [tracking, setTracking] = useState("");
  const sent = useMarkOrderLinesSent(() => ({ body: { lines, carrier, tracking } }));
  return (
    <chakra.form
      display="flex"
      gap="3"
      alignItems="center"
      onSubmit={(e) => {
        e.preventDefault();
        if (lines.length && !sent.isPending)
          sent.mutate(undefined, {
            onSuccess: () => {
              setTracking("");
              onDone();
            },
          });
      }}
    >
      <Input
        aria-label="Carrier"
        placeholder="carrier"
        w="160px"
        h="32px"
        value={carrier}
        onChange={(e) => setCarrier(e.target.value)}
      />
      <Input
        aria-label="Tracking number"
        placeholder="tracking number"
        w="200px"
        h="32px"
        value={tracking}
        onChange={(e) => setTracking(e.target.value)}
      />
      <Button type="submit" look="main" disabled={!lines.length || !carrier || !tracking || sent.isPending}>
        {lines.length === 0 ? "Choose what went" : `${lines.length} on the way`}
      </Button>
      <Trouble error={sent.error} />
    </chakra.form>
  );
}

function Settle({ lines, onDone }: { lines: number[]; onDone: () => void }) {
  const settle = useSettleOrderLines(() => ({ body: { lines } }));
  return (
    <>
      <Button
        look="main"
        disabled={!lines.length || settle.isPending}
        onClick={() => settle.mutate(undefined, { onSuccess: onDone })}
      >
        {lines.length === 0 ? "Choose what you have seen to" : `${lines.length} seen to`}
      </Button>
      <Trouble error={settle.error} />
    </>
  );
}

function CallOff({ lines, onDone }: { lines: number[]; onDone: () => void }) {
  const off = useCancelOrderLines(() => ({ body: { lines } }));
  return (
    <>
      <Button disabled={off.isPending} onClick={() => off.mutate(undefined, { onSuccess: onDone })}>
        Call {lines.length === 1 ? "it" : `these ${lines.length}`} off
      </Button>
      <Trouble error={off.error} />
    </>
  );
}

const tones: Partial<Record<Row["state"] | "arrived", "bad" | "good">> = {
  arrived: "good",
  cancelled: "bad",
  returned: "bad",
  done: "good",
  sent: "good",
};

const columns = (part: Part, now?: string): Column<Row>[] => {
  const all: Column<Row>[] = [
    { key: "placed", head: "Placed", width: "104px", sort: "placed", cell: (r) => time(r.placed, now) },
    {
      key: "title",
      head: "Product",
      width: "minmax(200px, 1.4fr)",
      cell: (r) => <Pictured digest={r.picture}>{r.title || r.sku}</Pictured>,
    },
    { key: "order", head: "Order", width: "108px", cell: (r) => <Code>{r.order}</Code> },
    { key: "site", head: "Site", width: "130px", sort: "site", cell: (r) => r.site },
    { key: "quantity", head: "Units", width: "60px", right: true, cell: (r) => <Code color="ink">{r.quantity}</Code> },
    {
      key: "paid",
      head: "Paid",
      width: "112px",
      right: true,
      cell: (r) => <Money minor={r.paid} currency={r.currency} unit />,
    },
    {
      key: "left",
      head: "Left, expected",
      width: "104px",
      right: true,
      cell: (r) => <Money minor={r.expected} currency={r.currency} sign />,
    },
    {
      key: "real",
      head: "as known",
      width: "84px",
      right: true,
      cell: (r) => <Money minor={r.real} currency={r.currency} sign />,
    },
    {
      key: "supplier",
      head: "From",
      width: "minmax(110px, 0.7fr)",
      sort: "supplier",
      cell: (r) => r.supplier || <Quiet>nobody yet</Quiet>,
    },
    {
      key: "state",
      head: "State",
      width: "108px",
      cell: (r) => {
        const state = r.state === "bought" && r.arrived ? "arrived" : r.state;
        return (
          <Word tone={r.late ? "bad" : tones[state]} title={r.telling ? "Its place is being told" : undefined}>
            {r.late ? `${state}, late` : state}
          </Word>
        );
      },
    },
    {
      key: "problem",
      head: "What is the matter",
      width: "minmax(220px, 1.6fr)",
      cell: (r) => <chakra.span title={r.problem}>{r.problem}</chakra.span>,
    },
  ];
  const out: Record<string, string[]> = {
    buy: ["real", "problem"],
    send: ["problem", "real"],
    problems: ["supplier", "real", "left"],
    all: ["problem"],
  };
  return all.filter((c) => !out[part]?.includes(c.key));
};
