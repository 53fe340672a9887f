import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetSupplierProduct } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Steps } from "../../parts/charts";
import { Button, Code, Quiet, Trouble } from "../../parts/controls";
import { ProfitCurve } from "../../parts/curve";
import { Drawn } from "../../parts/drawn";
import { Money, money, plain } from "../../parts/money";
import { Facts, Panel } from "../../parts/panel";
import { Thumb } from "../../parts/picture";
import { figures, Opened as Strip } from "../../parts/strip";
import { time } from "../../parts/when";
import { percent, Standing, stars } from "./columns";
import { useAtPrice, useOpened } from "./queries";

type OneProps = {
  id: number;
  site: { id: number; currency: string; charged: number };
  onClose: () => void;
  onOpen: (id: number) => void;
  onSeller: (name: string) => void;
};

/** One opens a candidate: what is left at the lowest line by line, every rival's
 * total, the same at other suppliers, and where to look it up. */
export function One({ id, site, onClose, onOpen, onSeller }: OneProps) {
  const { data, error } = useOpened(id);
  const { data: clock } = useClock();
  const [at, setAt] = useState<"lowest" | "leading" | "rule" | number>("lowest"); // a number is a price of one's own
  const c = data?.candidate;
  const total = at === "lowest" ? c?.lowest : c?.leading; // what a buyer pays, delivery and all
  const item =
    typeof at === "number" ? at : at === "rule" ? c?.price_rule : total == null ? null : total - site.charged;
  const bench = useAtPrice(site.id, c, item == null || item < 1 ? undefined : plain(item, site.currency));
  const show = (v: number | null | undefined) => <Money minor={v} currency={site.currency} />;
  return (
    <Panel label="One candidate" onClose={onClose}>
      <Trouble error={error ?? bench.error} />
      {c && data && (
        <>
          <chakra.div display="flex" gap="3" pr="12" pt="2" mb="2">
            <Thumb digest={c.picture} size={64} alt={`A picture of ${c.title}`} />
            <div>
              <chakra.h2 fontSize="15.5px" fontWeight="700">
                {c.title}
              </chakra.h2>
              <chakra.div color="quiet">
                {c.supplier} <Code>{c.ref}</Code> <Standing c={c} />
              </chakra.div>
              {!c.ours && ["several", "later"].includes(c.state) && (
                <Link to={`/match?open=${c.match_id}`}>
                  <chakra.span color="accent" textDecoration="underline">
                    Decide it on Match
                  </chakra.span>
                </Link>
              )}
            </div>
          </chakra.div>
          <chakra.div role="group" aria-label="At which price" display="flex" gap="1" mb="2">
            {(["lowest", "leading", "rule"] as const).map((k) => (
              <Button
                key={k}
                size="small"
                aria-pressed={at === k}
                disabled={(k === "lowest" && c.lowest === null) || (k === "leading" && c.leading === null)}
                onClick={() => setAt(k)}
              >
                {k === "rule" ? "At our rule's price" : `At the ${k}`}
              </Button>
            ))}
          </chakra.div>
          {bench.data &&
            (bench.data.lines.length > 0 ? (
              <>
                <chakra.div overflow="hidden">
                  <ProfitCurve answer={{ ...bench.data, rivals: data.offers }} onPrice={setAt} />
                </chakra.div>
                <Strip figures={figures(bench.data)} currency={site.currency} lines={bench.data.lines} />
              </>
            ) : (
              <Quiet>{bench.data.why || bench.data.rule.why}</Quiet>
            ))}
          <Heading>
            What others ask <Quiet>{c.market_at ? `read ${time(c.market_at, clock?.now)}` : "not read yet"}</Quiet>
          </Heading>
          {data.offers.length > 0 ? (
            <chakra.table w="100%" aria-label="What others ask">
              <tbody>
                {[...data.offers]
                  .sort((a, b) => a.item + a.delivery - b.item - b.delivery)
                  .map((o, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: a seller may have several offers
                    <tr key={i}>
                      <chakra.td py="0.5" maxW="150px" truncate>
                        {o.ours || !o.seller ? (
                          o.ours ? (
                            "ours"
                          ) : (
                            "a seller"
                          )
                        ) : (
                          <chakra.button
                            type="button"
                            textDecoration="underline"
                            title="What else this seller offers"
                            onClick={() => onSeller(o.seller)}
                          >
                            {o.seller}
                          </chakra.button>
                        )}{" "}
                        {o.lead && <Quiet>leads</Quiet>}
                      </chakra.td>
                      <chakra.td textAlign="right">{show(o.item)}</chakra.td>
                      <chakra.td textAlign="right">
                        <Quiet>+ {show(o.delivery)}</Quiet>
                      </chakra.td>
                      <chakra.td textAlign="right" fontWeight="700">
                        {show(o.item + o.delivery)}
                      </chakra.td>
                    </tr>
                  ))}
              </tbody>
            </chakra.table>
          ) : (
            <Quiet>{c.market_at ? "Nobody else sells it." : "Read the market to know."}</Quiet>
          )}
          {data.same.length > 1 && (
            <>
              <Heading>The same from all suppliers</Heading>
              <chakra.table w="100%" aria-label="The same from all suppliers">
                <tbody>
                  {data.same.map((s) => (
                    <tr key={s.id}>
                      <chakra.td py="0.5" maxW="190px" truncate>
                        <chakra.button
                          type="button"
                          textDecoration={s.id === c.id ? undefined : "underline"}
                          onClick={() => onOpen(s.id)}
                        >
                          {s.supplier} <Code>{s.ref}</Code>
                        </chakra.button>
                      </chakra.td>
                      <chakra.td textAlign="right">
                        <Quiet>{s.stock ?? "–"} there</Quiet>
                      </chakra.td>
                      <chakra.td textAlign="right">
                        {s.best_supplier && <Quiet>cheapest </Quiet>}
                        {show(s.landed)}
                      </chakra.td>
                    </tr>
                  ))}
                </tbody>
              </chakra.table>
            </>
          )}
          <Moved data={data} currency={site.currency} />
          <Heading>What is known</Heading>
          <Facts
            rows={[
              ["Entry", c.entry || "–"],
              ["Number", c.gtin || "–"],
              ["Brand", c.brand || "–"],
              ["Rating", stars(c.rating)],
              ["Rank", c.rank === null ? "–" : String(c.rank)],
              ["Weight", c.weight === null ? "–" : `${c.weight} g`],
              ["Margin at the lowest", percent(c.margin_lowest)],
              ["Weighed", time(c.weighed_at, clock?.now)],
            ]}
          />
          {(data.look_ups.length > 0 || c.page) && (
            <chakra.div display="flex" flexWrap="wrap" gap="2" mt="3" pb="3">
              {c.page && <Outside name="The entry's page" address={c.page} />}
              {data.look_ups.map((l) => (
                <Outside key={l.id} name={l.name} address={l.address} />
              ))}
            </chakra.div>
          )}
        </>
      )}
    </Panel>
  );
}

/** Moved draws how the supplier's cost, and what others ask, moved. */
function Moved({ data, currency }: { data: Schemas["Opened"]; currency: string }) {
  const c = data.candidate;
  const { data: clock } = useClock();
  const { data: item } = useGetSupplierProduct({ path: { id: c.supplier_product_id } });
  const moved = data.moved;
  const words = (of: (p: Schemas["MarketPoint"]) => number | null) =>
    moved.map((p) => (of(p) === null ? "nobody" : money(of(p) ?? 0, currency))).join(", ");
  const until = clock?.now ?? c.weighed_at;
  return (
    <>
      <Heading>How it moved</Heading>
      {data.sold.length > 0 && (
        <chakra.p pb="1">Sold in thirty days: {data.sold.map((x) => `${x.units} on ${x.site}`).join(", ")}</chakra.p>
      )}
      {item && (
        <Drawn
          item={item}
          field="cost"
          label="Supplier's cost"
          now={`${money(c.cost, c.cost_currency)} ${c.cost_currency}`}
        />
      )}
      {moved.length > 1 ? (
        <>
          <Quiet>Lowest; dashed, the leading</Quiet>
          <Steps
            label={`Lowest, ${currency}: ${words((p) => p.lowest)}. Leading: ${words((p) => p.leading)}`}
            points={moved.map((p) => ({ at: p.at, value: p.lowest }))}
            second={moved.map((p) => ({ at: p.at, value: p.leading }))}
            until={until}
            width={372}
            height={48}
          />
          <chakra.div display="flex" justifyContent="space-between">
            <Quiet>Sellers</Quiet>
            <chakra.span fontFamily="mono" fontWeight="600">
              {moved[moved.length - 1].sellers}
            </chakra.span>
          </chakra.div>
          <Steps
            label={`Sellers: ${moved.map((p) => p.sellers).join(", ")}`}
            points={moved.map((p) => ({ at: p.at, value: p.sellers }))}
            until={until}
            width={372}
            height={30}
            from={0}
          />
        </>
      ) : (
        <Quiet>
          {moved.length === 1 && `What others ask has been the same since ${time(moved[0].at, clock?.now)}.`}
        </Quiet>
      )}
    </>
  );
}

function Heading({ children }: { children: React.ReactNode }) {
  return (
    <chakra.h3 fontWeight="700" mt="4" mb="1">
      {children}
    </chakra.h3>
  );
}

function Outside({ name, address }: { name: string; address: string }) {
  return (
    <chakra.a href={address} target="_blank" rel="noopener noreferrer" color="accent" textDecoration="underline">
      {name} ↗
    </chakra.a>
  );
}
