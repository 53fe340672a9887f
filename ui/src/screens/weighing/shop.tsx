import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { useListSellerOffers } from "../../api/operations";
import { Code, Quiet, Trouble } from "../../parts/controls";
import { Money } from "../../parts/money";
import { Panel } from "../../parts/panel";

type ShopProps = { site: { id: number; currency: string }; seller: string; onClose: () => void };

/** Shop is what one seller offers, those that a supplier of ours has first. */
export function Shop({ site, seller, onClose }: ShopProps) {
  const { data, error, isLoading } = useListSellerOffers(
    { path: { id: site.id }, query: { seller } },
    { retry: false },
  );
  const rows = [...(data?.rows ?? [])].sort((a, b) => Number(b.supplied.length > 0) - Number(a.supplied.length > 0));
  const had = rows.filter((r) => r.supplied.length > 0).length;
  return (
    <Panel label="What one seller offers" onClose={onClose}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pr="12" pt="2">
        {seller}
      </chakra.h2>
      <Trouble error={error} />
      {isLoading && <Quiet>Reading…</Quiet>}
      {data && (
        <Quiet>
          {data.more ? "more than " : ""}
          {rows.length} on sale, {had} with a number that suppliers of ours have
        </Quiet>
      )}
      {rows.map((r) => (
        <chakra.div key={r.ref} py="1.5" borderBottomWidth="1px" borderColor="hair">
          <chakra.div display="flex" gap="2" justifyContent="space-between">
            <chakra.span minW="0" truncate>
              {r.title}
            </chakra.span>
            <Money minor={r.item + r.delivery} currency={site.currency} fontWeight="700" />
          </chakra.div>
          {r.supplied.map((s) => (
            <chakra.div key={s.supplier_product_id} display="flex" justifyContent="space-between" gap="2">
              <Link to={`/sources?tab=find&q=${encodeURIComponent(r.gtin)}&open=${s.supplier_product_id}`}>
                <chakra.span color="accent" textDecoration="underline">
                  {s.supplier} <Code>{s.ref}</Code>
                </chakra.span>
              </Link>
              <Quiet>
                <Money minor={s.cost} currency={s.currency} unit />
              </Quiet>
            </chakra.div>
          ))}
          {r.supplied.length === 0 && <Code>{r.gtin}</Code>}
        </chakra.div>
      ))}
    </Panel>
  );
}
