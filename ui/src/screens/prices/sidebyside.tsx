import { chakra } from "@chakra-ui/react";
import { useDeferredValue } from "react";
import { useAddress } from "../../parts/address";
import { Head, Quiet, Trouble, Word } from "../../parts/controls";
import { Money } from "../../parts/money";
import type { Ask } from "./ask";
import { useBenchSites } from "./queries";

/** SideBySide is the same product on every site, each by its own rule: where is it best sold? */
export function SideBySide({ ask }: { ask: Ask }) {
  const asked = useDeferredValue({ ...ask, lead: "rule", value: undefined, former: undefined } as Ask);
  const { data, error } = useBenchSites(asked);
  const a = useAddress();
  return (
    <chakra.section aria-label="Side by side">
      <chakra.h2 fontWeight="700" fontSize="12.5px" color="quiet">
        Where is it best sold? Each site by its own rule
      </chakra.h2>
      <Trouble error={error} />
      {data && (
        <chakra.table w="100%">
          <thead>
            <tr>
              <Head left>Site</Head>
              <Head>Price</Head>
              <Head>Left</Head>
              <Head>Margin</Head>
              <Head>{`Left, ${data.home}`}</Head>
            </tr>
          </thead>
          <tbody>
            {data.sites.map((s) => (
              <chakra.tr
                key={s.site_id}
                borderTopWidth="1px"
                borderColor="hair"
                fontWeight={s.site_id === ask.site_id ? "700" : "400"}
              >
                <chakra.td py="0.5">
                  <chakra.button
                    type="button"
                    textAlign="left"
                    title={`Try it on ${s.site}`}
                    onClick={() => a.put({ site: String(s.site_id) })}
                  >
                    {s.site}
                  </chakra.button>{" "}
                  {s.best && <Word tone="good">leaves most</Word>}
                </chakra.td>
                {s.price == null ? (
                  <chakra.td colSpan={4} pl="3" fontSize="12.5px">
                    <Quiet>{s.why}</Quiet>
                  </chakra.td>
                ) : (
                  <>
                    <chakra.td textAlign="right" pl="3" whiteSpace="nowrap">
                      <Money minor={s.price} currency={s.currency} unit />
                    </chakra.td>
                    <chakra.td textAlign="right" pl="3">
                      <Money minor={s.profit} currency={s.currency} sign />
                    </chakra.td>
                    <chakra.td textAlign="right" pl="3" fontFamily="mono">
                      {s.margin || "–"}
                    </chakra.td>
                    <chakra.td textAlign="right" pl="3">
                      <Money minor={s.home} currency={data.home} sign />
                    </chakra.td>
                  </>
                )}
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      )}
    </chakra.section>
  );
}
