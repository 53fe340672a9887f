import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useLinkOffer, useSearchSupplierProducts } from "../../api/operations";
import { Button, Code, Input, Key, Quiet, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Thumb } from "../../parts/picture";

/** Tie ties an offer that is on sale to the supplier product it comes from. */
export function Tie({ offer: o, onDone }: { offer: Schemas["UntiedRow"]; onDone: () => void }) {
  const [words, setWords] = useState(o.gtin || o.title);
  const [units, setUnits] = useState({ bought: "1", listed: "1" });
  const found = useSearchSupplierProducts({ query: { words } }, { enabled: words !== "", keep: true });
  const tie = useLinkOffer((item: number) => ({
    body: {
      site_id: o.site_id,
      sku: o.sku,
      supplier_product_id: item,
      units_bought: Number(units.bought) || 0,
      units_listed: Number(units.listed) || 0,
    },
  }));
  const rows = (found.data ?? []).slice(0, 9);
  const say = (item: number) => {
    if (!tie.isPending) tie.mutate(item, { onSuccess: onDone });
  };
  useKeys(Object.fromEntries(rows.map((r, i) => [String(i + 1), () => say(r.id)])), true, [["1 … 9", "it is of this"]]);
  return (
    <chakra.div pt="2">
      <chakra.h2 fontSize="15.5px" fontWeight="700" pr="12">
        {o.title || o.sku}
      </chakra.h2>
      <Quiet>
        <Code>{o.sku}</Code> on {o.site}, {o.quantity} at <Money minor={o.price} currency={o.currency} unit />
      </Quiet>
      <Input
        my="2"
        type="search"
        aria-label="Which supplier product is it"
        value={words}
        onChange={(e: React.ChangeEvent<HTMLInputElement>) => setWords(e.target.value)}
        onKeyDown={(e: React.KeyboardEvent<HTMLInputElement>) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <chakra.div display="flex" gap="3" pb="2">
        {(["bought", "listed"] as const).map((k) => (
          <chakra.label key={k} display="flex" gap="2" alignItems="center">
            {k === "bought" ? "in the supplier's item" : "in what we list"}
            <Input
              w="52px"
              h="26px"
              figures
              inputMode="numeric"
              value={units[k]}
              onChange={(e: React.ChangeEvent<HTMLInputElement>) => setUnits({ ...units, [k]: e.target.value })}
            />
          </chakra.label>
        ))}
      </chakra.div>
      <Trouble error={found.error ?? tie.error} />
      {found.data?.length === 0 && <Quiet>No supplier has anything by these words.</Quiet>}
      {rows.map((r, i) => (
        <chakra.div
          key={r.id}
          display="flex"
          gap="2"
          alignItems="center"
          py="1"
          borderTopWidth="1px"
          borderColor="hair"
        >
          <Thumb digest={r.picture} />
          <chakra.div flex="1" minW="0">
            <chakra.div truncate>{r.title}</chakra.div>
            <Quiet fontSize="12px">
              {r.supplier} <Code>{r.ref}</Code>
            </Quiet>
          </chakra.div>
          <Button size="small" onClick={() => say(r.id)} disabled={tie.isPending}>
            It is <Key>{i + 1}</Key>
          </Button>
        </chakra.div>
      ))}
    </chakra.div>
  );
}
