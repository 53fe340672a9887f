import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useCreatePurchases, useSplitPurchase } from "../../api/operations";
import { Button, Code, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money, money } from "../../parts/money";
import { Working } from "../../parts/working";

type View = Schemas["SplitView"];

/** Split is how lines are best bought: from whom each, what each supplier gets,
 * and what a choice of one's own would cost more. */
export function Split({ lines, onClose }: { lines: number[]; onClose: () => void }) {
  const go = useNavigate();
  const [choice, setChoice] = useState<Record<number, number>>({});
  const [yes, setYes] = useState(false);
  const { data, error, isFetching } = useSplitPurchase({ body: { lines, choice } }, { keep: true });
  const served = data?.lines.filter((l) => l.ways.some((w) => w.chosen)) ?? [];
  const chosen = Object.fromEntries(served.map((l) => [l.id, l.ways.find((w) => w.chosen)?.supplier_product ?? 0]));
  const buy = useCreatePurchases(() => ({
    body: { lines: served.map((l) => l.id), choice: chosen, yes: yes || undefined },
  }));
  const losses = data?.losses.length ?? 0;
  const may = served.length > 0 && !isFetching && !buy.isPending && (losses === 0 || yes);
  const act = () => may && buy.mutate(undefined, { onSuccess: () => go("/orders?part=purchases") });
  useKeys({ ".": act, Escape: onClose }, true, [
    [".", "buy them so"],
    ["Esc", "leave it"],
  ]);
  return (
    <chakra.section aria-label="How they are best bought" pt="2" overflowY="auto" flex="1" minH="0">
      <Trouble error={error ?? buy.error} />
      {data && (
        <>
          <Suppliers view={data} />
          <chakra.div display="flex" gap="3" alignItems="center" py="3">
            {losses > 0 && (
              <chakra.label display="flex" gap="2" alignItems="center" color="loss" fontWeight="600">
                <input type="checkbox" checked={yes} onChange={() => setYes(!yes)} />
                {losses === 1 ? "One line loses money: yes, buy it" : `${losses} lines lose money: yes, buy them`}
              </chakra.label>
            )}
            <chakra.span flex="1" />
            <Working on={isFetching} />
            <Button onClick={onClose}>Leave it</Button>
            {Object.keys(choice).length > 0 && <Button onClick={() => setChoice({})}>As is cheapest</Button>}
            <Button look="main" disabled={!may} onClick={act}>
              {served.length === 0 ? "Nothing can be bought" : `Buy ${served.length}`} <Key>.</Key>
            </Button>
          </chakra.div>
          <chakra.table w="100%" css={{ "& td, & th": { padding: "5px 10px 5px 0", textAlign: "left" } }}>
            <thead>
              <chakra.tr color="quiet" fontSize="12.5px" borderBottomWidth="1px" borderColor="hair">
                <th>Order</th>
                <th>Product</th>
                <chakra.th css={{ textAlign: "right !important" }}>Units</chakra.th>
                <th>From</th>
                <chakra.th css={{ textAlign: "right !important" }}>Goods</chakra.th>
                <chakra.th css={{ textAlign: "right !important" }}>Expected</chakra.th>
                <th>To know</th>
              </chakra.tr>
            </thead>
            <tbody>
              {data.lines.map((l) => (
                <Line
                  key={l.id}
                  line={l}
                  currency={data.currency}
                  onChoose={(product) => setChoice({ ...chosen, ...choice, [l.id]: product })}
                />
              ))}
            </tbody>
          </chakra.table>
        </>
      )}
    </chakra.section>
  );
}

/** Suppliers are what goes to whom, and what all of it costs. */
function Suppliers({ view: v }: { view: View }) {
  const more = v.total - v.best;
  return (
    <chakra.div display="flex" gap="6" alignItems="flex-end" flexWrap="wrap">
      <chakra.div>
        <Money minor={v.total} currency={v.currency} unit fontSize="21px" fontWeight="700" />
        <Quiet display="block" fontSize="12.5px">
          {more > 0
            ? `${money(more, v.currency)} ${v.currency} more than it can cost`
            : v.proved
              ? "nothing costs less"
              : "the best that was found in time"}
        </Quiet>
      </chakra.div>
      {v.suppliers.map((s) => (
        <chakra.div key={s.id} borderLeftWidth="3px" borderColor="action" pl="3">
          <chakra.div fontWeight="600">{s.supplier}</chakra.div>
          <chakra.div fontFamily="mono" fontSize="13px">
            {money(s.goods, v.currency)}
            <Quiet>
              {" "}
              + {s.delivery === 0 ? "delivery free" : `${money(s.delivery, v.currency)} delivery`}
              {s.topped_up > 0 && ` + ${money(s.topped_up, v.currency)} topped up`}
            </Quiet>
          </chakra.div>
        </chakra.div>
      ))}
    </chakra.div>
  );
}

type LineProps = { line: Schemas["SplitLine"]; currency: string; onChoose: (product: number) => void };

function Line({ line: l, currency, onChoose }: LineProps) {
  const way = l.ways.find((w) => w.chosen);
  return (
    <chakra.tr borderBottomWidth="1px" borderColor="hair">
      <td>
        <Code>{l.order}</Code>
      </td>
      <td>{l.title}</td>
      <chakra.td css={{ textAlign: "right !important" }}>
        <Code color="ink">{l.quantity}</Code>
      </chakra.td>
      <td>
        <Select
          h="28px"
          w="230px"
          aria-label={`From whom ${l.title}`}
          value={way?.supplier_product ?? ""}
          onChange={(e) => onChoose(Number(e.target.value))}
        >
          {!way && <option value="">nobody</option>}
          {l.ways.map((w) => (
            <option key={w.supplier_product} value={w.supplier_product} disabled={w.words !== ""}>
              {w.supplier} {w.words ? `(${w.words})` : money(w.goods, currency)}
            </option>
          ))}
        </Select>
      </td>
      <chakra.td css={{ textAlign: "right !important" }}>
        <Money minor={way?.goods} currency={currency} />
      </chakra.td>
      <chakra.td css={{ textAlign: "right !important" }}>
        <Money minor={l.expected} currency={currency} />
      </chakra.td>
      <td>
        <chakra.span color={l.words ? "loss" : "quiet"}>
          {l.words || (way && way.left_over > 0 ? `${way.left_over} left over` : "")}
        </chakra.span>
      </td>
    </chakra.tr>
  );
}
