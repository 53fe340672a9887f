import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useGetSupplierProduct } from "../../api/operations";
import { Code, Trouble, Word } from "../../parts/controls";
import { Drawn } from "../../parts/drawn";
import { money } from "../../parts/money";
import { Facts, Panel } from "../../parts/panel";
import { time } from "../../parts/when";

type Item = Schemas["SupplierItem"];

/** ItemPanel opens one supplier product: all it says, and how its cost and stock moved. */
export function ItemPanel({ id, onClose, children }: { id: number; onClose: () => void; children?: React.ReactNode }) {
  const { data: x, error } = useGetSupplierProduct({ path: { id } });
  return (
    <Panel label="One supplier product" onClose={onClose}>
      <Trouble error={error} />
      {x && (
        <>
          <chakra.h2 fontSize="15.5px" fontWeight="700" pr="14" pt="2">
            {x.title}
          </chakra.h2>
          <chakra.div color="quiet" mb="2" display="flex" gap="2" alignItems="center" flexWrap="wrap">
            {x.supplier} <Code>{x.ref}</Code>
            {x.gone && <Word tone="bad">gone</Word>}
            {x.sites ? (
              x.sites.split(", ").map((s) => (
                <Word key={s} tone="good">
                  {s}
                </Word>
              ))
            ) : (
              <Word>not ours</Word>
            )}
          </chakra.div>
          {children}
          <Link to={`/price?tab=bench&item=${x.id}`}>
            <chakra.span textDecoration="underline" textUnderlineOffset="3px" display="block" mb="2">
              What would one make? Try it on the bench
            </chakra.span>
          </Link>
          <Pictures list={x.pictures} />
          <Drawn item={x} field="cost" label={`Cost, ${x.currency}`} now={money(x.cost, x.currency)} />
          <Drawn
            item={x}
            field="stock"
            label="Stock"
            now={x.stock_state === "known" ? String(x.stock) : x.stock_state}
          />
          <Facts
            rows={x.fields
              .filter((f) => !["description", "pictures", "title", "cost", "stock"].includes(f.name))
              .map((f): [string, string] => [f.name.replace("attribute ", "").replaceAll("_", " "), f.value])}
          />
          <History item={x} />
        </>
      )}
    </Panel>
  );
}

/** Pictures are the supplier's pictures as they were fetched, small; what speaks against one stands below it. */
function Pictures({ list }: { list: Schemas["PictureRow"][] }) {
  if (list.length === 0) return null;
  return (
    <chakra.div display="flex" gap="2" flexWrap="wrap" mb="3">
      {list.map((p, i) => (
        <chakra.figure key={p.url} w="84px" fontSize="11.5px" color="quiet">
          {p.state === "kept" ? (
            <a href={`/api/v1/pictures/${p.digest}`} target="_blank" rel="noreferrer">
              <chakra.img
                src={`/api/v1/pictures/${p.digest}?size=small`}
                alt={`As the supplier shows it, ${i + 1}: ${p.width} by ${p.height} pixels`}
                w="84px"
                h="84px"
                objectFit="contain"
                borderWidth="1px"
                borderColor="hair"
                rounded="4px"
                bg="panel"
              />
            </a>
          ) : (
            <chakra.div w="84px" h="84px" borderWidth="1px" borderColor="hair" rounded="4px" p="1.5">
              {p.state === "waiting" ? "waits to be fetched" : "could not be fetched"}
            </chakra.div>
          )}
          {p.why && <chakra.figcaption color={p.state === "failed" ? "loss" : "quiet"}>{p.why}</chakra.figcaption>}
        </chakra.figure>
      ))}
    </chakra.div>
  );
}

function History({ item: x }: { item: Item }) {
  if (x.history.length === 0) return null;
  return (
    <>
      <chakra.h3 fontWeight="700" mt="3" mb="1" fontSize="12.5px" color="quiet">
        What feeds changed
      </chakra.h3>
      {[...x.history]
        .reverse()
        .slice(0, 60)
        .map((h, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a fixed list
          <chakra.div key={i} display="grid" gridTemplateColumns="96px 90px 1fr" gap="2" py="0.5" fontSize="12.5px">
            <Code>{time(h.at)}</Code>
            <span>{h.field}</span>
            <chakra.span fontFamily="mono" truncate>
              {h.before || "–"} → <b>{h.after || "–"}</b>
            </chakra.span>
          </chakra.div>
        ))}
    </>
  );
}
