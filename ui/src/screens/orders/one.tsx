import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetOrder, useRefundOrderLine, useSetActualCosts } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Code, Input, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { time } from "../../parts/when";

type Line = Schemas["LineView"];

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
            <One key={l.id} line={l} now={clock?.now} />
          ))}
        </chakra.div>
      )}
    </>
  );
}

function One({ line: l, now }: { line: Line; now?: string }) {
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
        <Facts line={l} />
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

/** Facts takes what really happened: costs, and money given back. */
function Facts({ line: l }: { line: Line }) {
  const [cost, setCost] = useState("");
  const [sending, setSending] = useState("");
  const [fees, setFees] = useState("");
  const [back, setBack] = useState("");
  const path = { path: { id: l.id } };
  const real = useSetActualCosts(() => ({ ...path, body: { cost, sending, fees } }));
  const refund = useRefundOrderLine((returned: boolean) => ({ ...path, body: { amount: back, returned } }));
  const fields: [string, string, (v: string) => void][] = [
    ["goods", cost, setCost],
    ["sending", sending, setSending],
    ["fees", fees, setFees],
  ];
  return (
    <div>
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
      {l.state !== "new" && (
        <chakra.div display="flex" gap="2" alignItems="center" pt="2">
          <Quiet w="120px">Give back</Quiet>
          <Input
            aria-label="Amount given back"
            figures
            w="84px"
            h="28px"
            value={back}
            onChange={(e) => setBack(e.target.value)}
          />
          <Button size="small" disabled={!back || refund.isPending} onClick={() => refund.mutate(false)}>
            Refund it
          </Button>
          <Button size="small" disabled={!back || refund.isPending} onClick={() => refund.mutate(true)}>
            It came back
          </Button>
        </chakra.div>
      )}
      <Trouble error={real.error ?? refund.error} />
    </div>
  );
}
