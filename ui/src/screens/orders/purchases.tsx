import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listPurchases, useMailPurchase, useReceivePurchase } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Code, Empty, Quiet, Trouble, Word } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { Money } from "../../parts/money";
import { time } from "../../parts/when";

type Row = Schemas["BuyingView"];

/** Purchases are what was bought: each with the order that its supplier is given. */
export function Purchases() {
  const { data: clock } = useClock();
  const list = useParts(listPurchases, {});
  const arrived = useReceivePurchase((id: number) => ({ path: { id } }));
  const mail = useMailPurchase((id: number) => ({ path: { id } }));
  return (
    <>
      <Trouble error={list.error ?? arrived.error ?? mail.error} retry={list.retry} />
      <Grid
        label="Purchases"
        list={list}
        empty={
          <Empty title="Nothing was bought yet">What you buy for orders stands here, one purchase a supplier.</Empty>
        }
        columns={columns(
          (id) => arrived.mutate(id),
          (id) => mail.mutate(id),
          clock?.now,
        )}
      />
    </>
  );
}

type Act = (id: number) => void;

const columns = (onArrived: Act, onMail: Act, now?: string): Column<Row>[] => [
  { key: "made", head: "Made", width: "104px", cell: (r) => time(r.made, now) },
  { key: "ref", head: "Our reference", width: "120px", cell: (r) => <Code color="ink">{r.ref}</Code> },
  { key: "supplier", head: "Supplier", width: "minmax(160px, 1fr)", cell: (r) => r.supplier },
  { key: "lines", head: "Lines", width: "64px", right: true, cell: (r) => <Code color="ink">{r.lines}</Code> },
  {
    key: "goods",
    head: "Goods",
    width: "104px",
    right: true,
    cell: (r) => <Money minor={r.goods} currency={r.currency} unit />,
  },
  {
    key: "delivery",
    head: "Delivery",
    width: "88px",
    right: true,
    cell: (r) => <Money minor={r.delivery + r.topped_up} currency={r.currency} />,
  },
  {
    key: "order",
    head: "Their order",
    width: "250px",
    cell: (r) => (
      <chakra.span display="flex" gap="3" alignItems="center">
        {(["csv", "xlsx"] as const).map((kind) => (
          <chakra.a key={kind} href={`/api/v1/purchases/${r.id}/export.${kind}`} download textDecoration="underline">
            {kind.toUpperCase()}
          </chakra.a>
        ))}
        {r.mail === "sent" && <Quiet>mailed {time(r.mailed, now)}</Quiet>}
        {r.mail === "waiting" && (
          <Word tone={r.mail_why ? "bad" : undefined} title={r.mail_why}>
            mail waits
          </Word>
        )}
        {r.mail === "refused" && (
          <Word tone="bad" title={r.mail_why}>
            mail refused
          </Word>
        )}
        {(r.mail === "" || r.mail === "refused") && r.orders_to && (
          <Button size="small" title={r.mail_why || r.orders_to} onClick={() => onMail(r.id)}>
            {r.mail === "refused" ? "Mail it again" : "Mail it"}
          </Button>
        )}
      </chakra.span>
    ),
  },
  {
    key: "arrived",
    head: "Arrived",
    width: "150px",
    cell: (r) =>
      r.arrived ? (
        <Word tone="good">{time(r.arrived, now)}</Word>
      ) : (
        <Button size="small" onClick={() => onArrived(r.id)}>
          It has arrived
        </Button>
      ),
  },
  { key: "by", head: "By", width: "90px", cell: (r) => <Quiet>{r.by}</Quiet> },
];
