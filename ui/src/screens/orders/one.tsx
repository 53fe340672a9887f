import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetOrder, useRefundOrderLine, useSetActualCosts } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Code, Input, Quiet, Select, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { time } from "../../parts/when";

type Line = Schemas["LineView"];
type Whole = Schemas["OrderView"];

/** Order is one order: whose it is, and of each line what was expected to be left
 * beside what really is, as far as is known. */
export function Order() {
  const id = Number(useParams().id);
  const go = useNavigate();
  const { data: clock } = useClock();
  const { data: o, error } = useGetOrder({ path: { id } });
  useKeys({ Escape: () => go(-1) }, true, [["Esc", "back"]]);
  return (
    <>
      <Title
        title={o ? `Order ${o.ref}` : "Order"}
        more={o && `${o.site}, placed ${time(o.placed, clock?.now)}${o.origin === "typed" ? ", typed in" : ""}`}
      >
        <Button onClick={() => go("/orders?part=all")}>All orders</Button>
      </Title>
      <Trouble error={error} />
      {o && (
        <chakra.div overflowY="auto" flex="1" minH="0">
          <chakra.section aria-label="Buyer" pb="2">
            {o.buyer ? (
              <>
                <b>{o.buyer.name}</b>{" "}
                <Quiet>{[...(o.buyer.address ?? []), o.buyer.country].filter(Boolean).join(", ")}</Quiet>
              </>
            ) : (
              <Quiet>Its buyer is forgotten: the order is long over.</Quiet>
            )}
          </chakra.section>
          {o.unmailed.map((m) => (
            <chakra.div key={m.subject} color="loss" pb="1">
              {m.refused
                ? `The mail “${m.subject}” was refused, and its buyer doesn't know: ${m.why}`
                : `The mail “${m.subject}” isn't taken yet and is tried again: ${m.why}`}
            </chakra.div>
          ))}
          {o.lines.map((l) => (
            <One key={l.id} line={l} order={o} now={clock?.now} />
          ))}
          <InAll order={o} />
        </chakra.div>
      )}
    </>
  );
}

/** InAll is what the buyer paid and what of it is ours. */
function InAll({ order: o }: { order: Whole }) {
  const parts: [string, number][] = [
    ["paid", o.paid],
    ["given back", -o.given_back],
    ["tax in what was kept", -o.tax],
    ["net", o.net],
  ];
  return (
    <chakra.dl aria-label="In all" display="flex" gap="6" borderTopWidth="1px" borderColor="ink" py="3">
      {parts
        .filter(([name, v]) => v !== 0 || name !== "given back")
        .map(([name, v]) => (
          <div key={name}>
            <chakra.dt color="quiet" fontSize="12.5px">
              {name}
            </chakra.dt>
            <dd>
              <Money minor={v} currency={o.currency} unit />
            </dd>
          </div>
        ))}
    </chakra.dl>
  );
}

function One({ line: l, order, now }: { line: Line; order: Whole; now?: string }) {
  return (
    <chakra.section aria-label={l.title || l.sku} borderTopWidth="1px" borderColor="hair" py="3">
      <chakra.div display="flex" gap="3" alignItems="baseline">
        <chakra.h2 fontWeight="700" fontSize="15.5px">
          {l.product_id ? <Link to={`/products/${l.product_id}`}>{l.title || l.sku}</Link> : l.title || l.sku}
        </chakra.h2>
        <Code>{l.sku}</Code>
        <span>
          {l.quantity} × <Money minor={l.price} currency={l.currency} unit />
        </span>
        <Word tone={l.late ? "bad" : undefined}>{l.late ? `${l.state}, late` : l.state}</Word>
        <Quiet>
          {[
            l.bought && `bought ${time(l.bought, now)} from ${l.supplier}`,
            l.sent && `sent ${time(l.sent, now)} by ${l.carrier}, ${l.tracking}`,
            l.telling && "its place is being told",
          ]
            .filter(Boolean)
            .join("; ")}
        </Quiet>
      </chakra.div>
      {l.problem && <chakra.div color="loss">{l.problem}</chakra.div>}
      <chakra.div display="grid" gridTemplateColumns="minmax(0, 460px) minmax(0, 1fr)" gap="10" pt="2">
        <Figures line={l} />
        <div>
          <Costs line={l} />
          {l.state !== "new" && <GiveBack line={l} order={order} />}
        </div>
      </chakra.div>
    </chakra.section>
  );
}

/** Figures are what was expected beside what really is; both add up. */
function Figures({ line: l }: { line: Line }) {
  if (l.beside.length === 0) return <Quiet>What was expected of it isn't known.</Quiet>;
  const sum = (of: "expected" | "real") => l.beside.reduce((n, b) => n + b[of], 0);
  return (
    <chakra.table
      aria-label="Expected and real"
      w="100%"
      css={{ "& td, & th": { padding: "2px 0" }, "& td + td, & th + th": { textAlign: "right" } }}
    >
      <thead>
        <chakra.tr color="quiet" fontSize="12.5px">
          <chakra.th textAlign="left" fontWeight="600">
            {l.currency}
          </chakra.th>
          <chakra.th fontWeight="600">expected</chakra.th>
          <chakra.th fontWeight="600">as known</chakra.th>
        </chakra.tr>
      </thead>
      <tbody>
        {l.beside.map((b) => (
          <tr key={b.name}>
            <td>{b.name}</td>
            <td>
              <Money minor={b.expected} currency={l.currency} />
            </td>
            <td>
              <Money minor={b.real} currency={l.currency} color={b.known ? "ink" : "quiet"} />
            </td>
          </tr>
        ))}
        <chakra.tr borderTopWidth="1px" borderColor="ink" fontWeight="700">
          <td>left for you</td>
          <td>
            <Money minor={sum("expected")} currency={l.currency} sign />
          </td>
          <td>
            <Money minor={sum("real")} currency={l.currency} sign />
          </td>
        </chakra.tr>
      </tbody>
    </chakra.table>
  );
}

/** Costs takes what a line really cost. */
function Costs({ line: l }: { line: Line }) {
  const [cost, setCost] = useState("");
  const [sending, setSending] = useState("");
  const [fees, setFees] = useState("");
  const real = useSetActualCosts(() => ({ path: { id: l.id }, body: { cost, sending, fees } }));
  const fields: [string, string, (v: string) => void][] = [
    ["goods", cost, setCost],
    ["sending", sending, setSending],
    ["fees", fees, setFees],
  ];
  return (
    <>
      <chakra.form
        display="flex"
        gap="2"
        alignItems="center"
        onSubmit={(e) => {
          e.preventDefault();
          if (!real.isPending) real.mutate(undefined);
        }}
      >
        <Quiet w="120px">It really cost</Quiet>
        {fields.map(([name, value, set]) => (
          <Input
            key={name}
            aria-label={`What ${name} really cost`}
            placeholder={name}
            figures
            w="84px"
            h="28px"
            value={value}
            onChange={(e) => set(e.target.value)}
          />
        ))}
        <Button type="submit" size="small" disabled={real.isPending || !(cost || sending || fees)}>
          Keep
        </Button>
      </chakra.form>
      <Trouble error={real.error} />
    </>
  );
}

type GiveBackProps = { line: Line; order: Whole };

/** GiveBack gives money back for a line's goods, or of the order's delivery. It asks
 * before money moves; without an amount it is all that is left. */
function GiveBack({ line: l, order }: GiveBackProps) {
  const [of, setOf] = useState<"goods" | "delivery">("goods");
  const [amount, setAmount] = useState("");
  const [returned, setReturned] = useState(false);
  const [asking, setAsking] = useState(false);
  const refund = useRefundOrderLine(() => ({ path: { id: l.id }, body: { amount, of, returned } }));
  const done = () => {
    setAsking(false);
    setAmount("");
  };
  const left = of === "goods" ? l.goods_left : order.delivery_left;
  return (
    <>
      <chakra.form
        display="flex"
        gap="2"
        alignItems="center"
        pt="2"
        onSubmit={(e) => {
          e.preventDefault();
          setAsking(true);
        }}
      >
        <Quiet w="120px">Give back</Quiet>
        <Input
          aria-label="Amount given back"
          placeholder="all"
          figures
          w="84px"
          h="28px"
          value={amount}
          onChange={(e) => setAmount(e.target.value)}
        />
        <Select
          aria-label="Of what"
          h="28px"
          value={of}
          onChange={(e) => setOf(e.target.value === "delivery" ? "delivery" : "goods")}
        >
          <option value="goods">of its goods</option>
          <option value="delivery">of the order's delivery</option>
        </Select>
        <Quiet whiteSpace="nowrap">
          <Money minor={left} currency={l.currency} /> left
        </Quiet>
        <chakra.label display="flex" gap="1" alignItems="center" whiteSpace="nowrap">
          <input type="checkbox" checked={returned} onChange={(e) => setReturned(e.target.checked)} />
          it came back
        </chakra.label>
        {!asking && (
          <Button type="submit" size="small" disabled={!left && !returned}>
            Refund…
          </Button>
        )}
      </chakra.form>
      {asking && (
        <chakra.div role="group" aria-label="Before money moves" display="flex" gap="2" alignItems="center" pt="2">
          <b>
            Give back {amount ? `${amount} ${l.currency}` : <Money minor={left} currency={l.currency} unit />} of{" "}
            {of === "goods" ? "its goods" : "the order's delivery"}?
          </b>
          <Button
            look="main"
            size="small"
            disabled={refund.isPending}
            onClick={() => refund.mutate(undefined, { onSuccess: done })}
          >
            Give it back
          </Button>
          <Button size="small" onClick={() => setAsking(false)}>
            Leave it
          </Button>
        </chakra.div>
      )}
      <Trouble error={refund.error} />
    </>
  );
}
