import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import {
  listSecondSupplies,
  useDismissSecondSupply,
  useTakeBackSecondSupplies,
  useTakeSecondSupplies,
} from "../../api/operations";
import { Button, Empty, Key, Quiet, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { toggled } from "../../parts/toggled";

type Second = Schemas["SecondSupplyView"];

/** Seconds are suppliers' products that are certainly what is sold already from another supplier. Taken, they
 * are bought from where that is cheaper, or where the other has none. */
export function Seconds() {
  const list = useParts(listSecondSupplies, {});
  const [out, setOut] = useState<Set<number>>(new Set()); // left out
  const chosen = list.rows.filter((r) => !out.has(r.id)).map((r) => r.id);
  const take = useTakeSecondSupplies((ids: number[]) => ({ body: { ids } }));
  const back = useTakeBackSecondSupplies((ids: number[]) => ({ body: { ids } }));
  const other = useDismissSecondSupply((id: number) => ({ path: { id }, body: { dismissed: true } }));
  const undoOther = useDismissSecondSupply((id: number) => ({ path: { id }, body: { dismissed: false } }));
  const go = () => {
    if (chosen.length > 0 && !take.isPending) take.mutate(chosen);
  };
  const undo = () => {
    if (take.data && !back.isPending) back.mutate(take.data.ids, { onSuccess: () => take.reset() });
  };
  useKeys({ A: go, a: go, z: undo, Z: undo }, true, [
    ["A", "take all that are ticked"],
    ["Z", "take the last back"],
  ]);
  return (
    <>
      <chakra.div display="flex" gap="4" alignItems="center" py="2" flexWrap="wrap">
        <Quiet flex="1" minW="240px">
          The same number and nothing against it: each can be bought from as well, where it costs less or the other has
          none. A month is what the last thirty days' sales would have earned more.
        </Quiet>
        {take.data && (
          <span>
            {take.data.ids.length} taken{" "}
            <Button size="small" onClick={undo} disabled={back.isPending}>
              Take back <Key>Z</Key>
            </Button>
          </span>
        )}
        {other.variables !== undefined && other.isSuccess && (
          <Button
            size="small"
            onClick={() => undoOther.mutate(other.variables as number, { onSuccess: () => other.reset() })}
          >
            It is the same after all
          </Button>
        )}
        {list.rows.length > 0 && (
          <Button look="main" onClick={go} disabled={chosen.length === 0 || take.isPending}>
            Buy from {chosen.length} too <Key>A</Key>
          </Button>
        )}
      </chakra.div>
      <Trouble error={list.error ?? take.error ?? back.error ?? other.error} retry={list.retry} />
      <Grid
        label="Second suppliers"
        list={list}
        selected={new Set(chosen)}
        onSelect={(r) => setOut(toggled(out, r.id))}
        onAct={(r) => take.mutate([r.id])}
        empty={
          <Empty title="None waits here">
            After each feed, what suppliers have is looked at for what you sell already from another one. Where it is
            certainly the same, it is proposed here.
          </Empty>
        }
        columns={[
          ...columns,
          {
            key: "other",
            head: "Or",
            width: "112px",
            cell: (s) => (
              <Button
                size="small"
                look="plain"
                aria-label={`${s.title} of ${s.supplier} is another thing`}
                onClick={() => other.mutate(s.id)}
              >
                Another thing
              </Button>
            ),
          },
        ]}
      />
    </>
  );
}

const columns: Column<Second>[] = [
  {
    key: "title",
    head: "What is sold",
    width: "minmax(0, 1.4fr)",
    cell: (s) => <Link to={`/products/${s.product_id}?listing=${s.listing_id}`}>{s.title}</Link>,
  },
  {
    key: "now",
    head: "From",
    width: "minmax(0, 1fr)",
    cell: (s) => (
      <chakra.span display="flex" justifyContent="space-between" gap="2">
        <chakra.span truncate>{s.now || "nobody"}</chakra.span>
        {s.paid !== null && <Money minor={s.paid} currency={s.currency} />}
      </chakra.span>
    ),
  },
  {
    key: "second",
    head: "And from",
    width: "minmax(0, 1fr)",
    cell: (s) => (
      <chakra.span display="flex" justifyContent="space-between" gap="2">
        <chakra.span truncate>{s.supplier}</chakra.span>
        {s.landed !== null && <Money minor={s.landed} currency={s.currency} />}
      </chakra.span>
    ),
  },
  {
    key: "saves",
    head: "Saves",
    width: "84px",
    right: true,
    cell: (s) =>
      s.landed !== null && s.paid !== null ? (
        <Money minor={s.saves} currency={s.currency} color={s.saves > 0 ? "gain" : undefined} />
      ) : (
        "–"
      ),
  },
  { key: "sold", head: "Sold, 30 days", width: "104px", right: true, cell: (s) => s.sold },
  {
    key: "month",
    head: "A month",
    width: "96px",
    right: true,
    cell: (s) => (s.month > 0 ? <Money minor={s.month} currency={s.currency} unit color="gain" /> : "–"),
  },
  {
    key: "why",
    head: "Not yet, because",
    width: "minmax(0, 1.2fr)",
    cell: (s) => <Quiet title={s.why}>{s.why}</Quiet>,
  },
];
