import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetProduct, useTakeSecondSupplies } from "../../api/operations";
import { useLines } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Empty, Key, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { tone } from "../../parts/listings";
import { Money, money } from "../../parts/money";
import { Thumb } from "../../parts/picture";
import { PriceLine } from "../../parts/priceline";
import { figures, Opened } from "../../parts/strip";
import { Variants } from "../../parts/variants";

type Docket = Schemas["Docket"];

/** DocketPage is one product: what its supplier says, what we say, what the
 * market says, row by row, with everything of it one key away. */
export function DocketPage() {
  const { id } = useParams();
  const a = useAddress();
  const go = useNavigate();
  const listing = Number(a.get("listing")) || undefined;
  const { data: d, error } = useGetProduct({ path: { id: Number(id) }, query: { listing } }, { keep: true });
  const at = d?.listings.findIndex((l) => l.id === d.listing_id) ?? -1;
  const turn = (by: number) => {
    const next = d?.listings[(at + by + d.listings.length) % d.listings.length];
    if (next) a.put({ listing: String(next.id) });
  };
  const own = d?.listings[at]?.own ? d.listing_id : 0;
  const supplier = d?.suppliers.find((s) => s.present) ?? d?.suppliers[0];
  const ways: [key: string, words: string, to: string | false | undefined][] = d
    ? [
        ["e", "Prepare it", own > 0 && `/prepare/${own}`],
        ["b", "Buyer's view", own > 0 ? `/prepare/${own}?as=buyer` : undefined],
        ["h", "Through time", d.listing_id > 0 && `/watch/listings/${d.listing_id}`],
        ["p", "On the bench", d.listing_id > 0 && `/price?tab=bench&product=${d.product_id}`],
        [
          "s",
          "Its supplier's row",
          supplier && `/sources?tab=find&q=${encodeURIComponent(supplier.ref)}&open=${supplier.item_id}`,
        ],
        [
          "w",
          d.waiting === 1 ? "1 change waits" : `${d.waiting} changes wait`,
          d.waiting > 0 && `/watch?open=${d.listing_id}`,
        ],
      ]
    : [];
  const open = ways.filter((w): w is [string, string, string] => !!w[2]);
  useKeys(
    {
      ...Object.fromEntries(open.map(([k, , to]) => [k, () => go(to)])),
      ArrowRight: () => turn(1),
      ArrowLeft: () => turn(-1),
      Escape: () => go(-1),
    },
    true,
    [
      ["← →", "another listing of it"],
      ...open.map(([k, w]): [string, string] => [k, w.toLowerCase()]),
      ["Esc", "back"],
    ],
  );
  if (error) return <Trouble error={error} />;
  if (!d) return null;
  return (
    <>
      <Title
        title={
          <chakra.span display="flex" gap="3" alignItems="center" minW="0">
            <Thumb digest={d.our_pictures[0] ?? d.supply_pictures[0] ?? d.market_pictures[0] ?? ""} size={44} />
            <chakra.span truncate maxW="560px">
              {d.title}
            </chakra.span>
          </chakra.span>
        }
        more={d.variant}
      >
        {open.map(([k, words, to]) => (
          <Button key={k} look={k === "w" ? "main" : undefined} size="small" onClick={() => go(to)}>
            {words} <Key>{k}</Key>
          </Button>
        ))}
      </Title>
      <chakra.div overflowY="auto" flex="1" minH="0" pb="4">
        <Sites d={d} onPick={(l) => a.put({ listing: String(l) })} />
        {d.listing_id > 0 ? (
          <Priced key={d.listing_id} listing={d.listing_id} />
        ) : (
          <Empty title="Listed nowhere">
            It is a product of yours that no site has. List it from <Link to="/prepare?tab=add">Prepare</Link>.
          </Empty>
        )}
        <Rows d={d} />
        {d.listing_id > 0 && (
          <chakra.div maxW="560px" mt="3">
            <Variants listing={d.listing_id} heading={<chakra.h2 fontWeight="700">Variants on {d.site}</chakra.h2>} />
          </chakra.div>
        )}
        <Suppliers d={d} />
      </chakra.div>
    </>
  );
}

/** Sites are the product's listings: which of them the rest is about. */
function Sites({ d, onPick }: { d: Docket; onPick: (listing: number) => void }) {
  if (d.listings.length === 0) return null;
  return (
    <chakra.div role="group" aria-label="Its listings" display="flex" gap="1.5" flexWrap="wrap" pb="2">
      {d.listings.map((l) => (
        <Button key={l.id} size="small" aria-pressed={l.id === d.listing_id} onClick={() => onPick(l.id)}>
          {l.site} <Word tone={tone(l.state)}>{l.state}</Word>
          <Money minor={l.price} currency={l.currency} unit />
        </Button>
      ))}
    </chakra.div>
  );
}

/** Priced is where the price goes, and where it stands among the others. */
function Priced({ listing }: { listing: number }) {
  const [price, setPrice] = useState<number>();
  const { data: x, error } = useLines(listing, price);
  if (error) return <Trouble error={error} />;
  if (!x) return <chakra.div h="190px" />;
  if (x.lines.length === 0) return <Trouble error={new Error(x.why || x.shown)} />;
  return (
    <section aria-label="Its price">
      <Opened figures={figures(x)} currency={x.currency} lines={x.lines} wide />
      <PriceLine answer={x} onPrice={setPrice} />
      {x.tied && <Quiet display="block">{x.tied}</Quiet>}
      {price !== undefined && (
        <chakra.div role="status" fontSize="13px">
          At {money(price, x.currency)} {x.currency},{" "}
          <Money minor={x.profit} currency={x.currency} sign fontWeight="600" /> would be left, {x.margin} of it.
          Nothing is changed.{" "}
          <Button size="small" look="plain" onClick={() => setPrice(undefined)}>
            As it is
          </Button>
        </chakra.div>
      )}
    </section>
  );
}

const cell = { textAlign: "left", verticalAlign: "top", py: "1.5", px: "2" } as const;

function Rows({ d }: { d: Docket }) {
  const pictures = [d.supply_pictures, d.our_pictures, d.market_pictures];
  const supplier = d.suppliers.find((s) => s.present) ?? d.suppliers[0];
  return (
    <chakra.table w="100%" mt="3" borderCollapse="collapse" css={{ tableLayout: "fixed" }}>
      <chakra.caption srOnly>What the supplier, we and the market say of it</chakra.caption>
      <chakra.colgroup>
        <chakra.col w="104px" />
        <col />
        <col />
        <col />
        <chakra.col w="170px" />
      </chakra.colgroup>
      <thead>
        <chakra.tr borderBottomWidth="1px" borderColor="hair">
          <chakra.td {...cell} />
          <chakra.th {...cell} fontWeight="400">
            <Quiet>Supply</Quiet> <b>{supplier?.supplier ?? "nobody"}</b>
          </chakra.th>
          <chakra.th {...cell} bg="panel" fontWeight="400">
            <Quiet>Ours</Quiet> <b>{d.sku}</b>
          </chakra.th>
          <chakra.th {...cell} fontWeight="400">
            <Quiet>Market</Quiet> <b>{d.site || "none yet"}</b>
          </chakra.th>
          <chakra.td {...cell} />
        </chakra.tr>
      </thead>
      <tbody>
        {d.rows.map((r, i) => [
          <chakra.tr key={r.aspect} borderBottomWidth="1px" borderColor="hair">
            <chakra.th {...cell} scope="row" color="quiet" fontWeight="400">
              {r.aspect}
            </chakra.th>
            <chakra.td {...cell}>{r.supply || <Quiet>–</Quiet>}</chakra.td>
            <chakra.td {...cell} bg="panel">
              {r.ours || <Quiet>–</Quiet>}
            </chakra.td>
            <chakra.td {...cell}>{r.market || <Quiet>–</Quiet>}</chakra.td>
            <chakra.td {...cell}>
              {r.notes.map((n) => (
                <chakra.span key={n} display="block" mb="1">
                  <Word tone="bad">{n}</Word>
                </chakra.span>
              ))}
            </chakra.td>
          </chakra.tr>,
          i === 1 && pictures.some((p) => p.length > 0) && (
            <chakra.tr key="pictures" borderBottomWidth="1px" borderColor="hair">
              <chakra.th {...cell} scope="row" color="quiet" fontWeight="400">
                Pictures
              </chakra.th>
              {pictures.map((list, n) => (
                <chakra.td key={["supply", "ours", "market"][n]} {...cell} bg={n === 1 ? "panel" : undefined}>
                  <chakra.span display="flex" gap="1" flexWrap="wrap">
                    {list.slice(0, 6).map((digest, k) => (
                      <Thumb key={digest} digest={digest} size={40} alt={`Picture ${k + 1}`} />
                    ))}
                    {list.length === 0 && <Quiet>–</Quiet>}
                  </chakra.span>
                </chakra.td>
              ))}
              <td />
            </chakra.tr>
          ),
        ])}
      </tbody>
    </chakra.table>
  );
}

function Suppliers({ d }: { d: Docket }) {
  const take = useTakeSecondSupplies((ids: number[]) => ({ body: { ids } }));
  const currency = d.listings.find((l) => l.id === d.listing_id)?.currency;
  if (d.suppliers.length < 2) return null;
  return (
    <chakra.section aria-label="Who sells it" mt="3">
      <chakra.h2 fontWeight="700">Who sells it to you</chakra.h2>
      {d.suppliers.map((s) => (
        <chakra.div key={s.item_id} display="flex" gap="3" py="0.5">
          <chakra.span w="220px">
            {s.supplier} {s.present && <Word tone="good">taken now</Word>}
            {s.proposed && <Word>not used yet</Word>}
          </chakra.span>
          <chakra.span w="120px" fontFamily="mono">
            {s.ref}
          </chakra.span>
          <Money minor={s.cost} currency={s.currency} unit />
          <chakra.span w="150px">
            {s.landed !== null && currency && (
              <>
                <Money minor={s.landed} currency={currency} unit /> <Quiet>landed</Quiet>
              </>
            )}
          </chakra.span>
          <Quiet>{s.state === "known" ? `${s.stock} there` : s.state}</Quiet>
          {s.why && !s.present && <chakra.span color="loss">{s.why}</chakra.span>}
          {s.proposed && (
            <Button size="small" disabled={take.isPending} onClick={() => take.mutate([s.item_id])}>
              Buy from it too
            </Button>
          )}
        </chakra.div>
      ))}
    </chakra.section>
  );
}
