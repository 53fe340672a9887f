import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../../api/client";
import { useGetDefaults } from "../../../api/operations";
import { useAddress } from "../../../parts/address";
import { Button, Code, Quiet, Trouble, Word } from "../../../parts/controls";
import { Brands } from "./brands";
import { OfCategory } from "./category";
import { Learnt } from "./learnt";
import { Terms } from "./terms";

type Site = Schemas["SiteView"];
export type SiteDefaults = Schemas["SiteDefaults"];

export const useDefaults = (site: number) => useGetDefaults({ path: { id: site } }, { enabled: site > 0 });

/** Defaults are what holds for all listings of one's own on a site unless one
 * says otherwise: templates, selling terms, values, names. */
export function Defaults({ sites, site: chosen }: { sites: Site[]; site: number }) {
  const a = useAddress();
  const site = sites.find((s) => s.id === chosen) ?? sites[0];
  const { data, error, refetch } = useDefaults(site?.id ?? 0);
  const at = a.get("of");
  const terms = a.get("terms");
  const category = data?.categories.find((c) => c.category === at) ?? data?.categories[0];
  if (!site) return null;
  return (
    <>
      <Trouble error={error} retry={() => refetch()} />
      {data && category && (
        <chakra.div display="flex" gap="5" flex="1" minH="0" pt="2">
          <chakra.nav aria-label="What holds where" w="250px" flexShrink={0} overflowY="auto">
            <chakra.h2 fontWeight="700" mb="1">
              In a category
            </chakra.h2>
            {data.categories.map((c) => (
              <Row
                key={c.category}
                on={!terms && c.category === category.category}
                onClick={() => a.put({ of: c.category || null, terms: null })}
              >
                <chakra.span truncate flex="1">
                  {c.path}
                </chakra.span>
                <Code>{c.listings || ""}</Code>
              </Row>
            ))}
            <chakra.h2 fontWeight="700" mt="4" mb="1">
              Selling terms
            </chakra.h2>
            {data.terms.map((t) => (
              <Row key={t.name} on={terms === t.name} onClick={() => a.put({ terms: t.name })}>
                <chakra.span truncate flex="1">
                  {t.name}
                </chakra.span>
                {t.of.length > 0 && <Word>{t.of.length === 1 ? t.of[0] : `${t.of.length} categories`}</Word>}
              </Row>
            ))}
            <Button size="small" mt="1" onClick={() => a.put({ terms: "new" })}>
              New terms
            </Button>
            <Brands site={site.id} brands={data.brands} />
            <Learnt site={site.id} learnt={data.learnt} />
          </chakra.nav>
          <chakra.div flex="1" minW="0" overflowY="auto" pb="4">
            {terms ? (
              <Terms
                key={terms}
                site={site}
                all={data.terms}
                name={terms === "new" ? "" : terms}
                onDone={(n) => a.put({ terms: n })}
              />
            ) : (
              <OfCategory key={category.category} site={site.id} of={category} terms={data.terms.map((t) => t.name)} />
            )}
          </chakra.div>
        </chakra.div>
      )}
      {data?.categories.length === 1 && data.terms.length === 0 && (
        <Quiet>Nothing is listed here yet; what you set for every category holds from the first listing on.</Quiet>
      )}
    </>
  );
}

function Row({ on, onClick, children }: { on: boolean; onClick: () => void; children: React.ReactNode }) {
  return (
    <chakra.button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      display="flex"
      gap="2"
      alignItems="center"
      w="100%"
      minH="30px"
      px="2"
      textAlign="left"
      rounded="4px"
      fontWeight={on ? "700" : "400"}
      bg={on ? "band" : undefined}
      cursor="pointer"
      _hover={{ bg: "band" }}
    >
      {children}
    </chakra.button>
  );
}
