import { chakra } from "@chakra-ui/react";
import { useCounts, useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Empty, Select, Title } from "../../parts/controls";
import { Tabs } from "../../parts/tabs";
import { Bench } from "./bench";
import { Fees } from "./fees";
import { Prices } from "./prices";
import { Rules } from "./rules";
import { Terms } from "./terms";
import { WhatIf } from "./whatif";

/** Price is what each listing asks and why: the rules that say so, the fees they
 * are reckoned with, and a bench to try any price on. */
export function Price() {
  const a = useAddress();
  const tab = a.get("tab") || "prices";
  const { data: sites } = useSites();
  const { data: counts } = useCounts();
  const site = sites?.find((s) => String(s.id) === a.get("site")) ?? sites?.[0];
  const unpriced = tab === "prices" && a.get("state") === "unpriced";
  // What if is asked of everything, unless a site is named.
  const everywhere = tab === "what-if" && !a.get("site") && (sites?.filter((s) => s.lists).length ?? 0) > 1;
  const shown = sites?.filter((s) => s.lists || (tab !== "prices" && tab !== "what-if")) ?? [];
  const to = (query: string) => (a.get("site") ? `?site=${a.get("site")}&${query}` : `?${query}`);
  return (
    <>
      <Title
        title="Price"
        more={
          tab === "prices"
            ? "what each listing asks, and where it goes"
            : everywhere
              ? "over everything that is listed"
              : site
                ? `${site.currency}, tax ${site.tax_way} at ${site.tax_rate}`
                : "no marketplace is connected yet"
        }
      >
        {sites && shown.length > 1 && (
          <chakra.label display="flex" gap="2" alignItems="center">
            on
            <Select
              aria-label="Site"
              value={tab === "prices" || everywhere ? a.get("site") : site?.id}
              onChange={(e) => a.put({ site: e.target.value, rule: null, own: null })}
            >
              {(tab === "prices" || tab === "what-if") && <option value="">every site</option>}
              {shown.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                  {s.lists ? "" : " (not listed on)"}
                </option>
              ))}
            </Select>
          </chakra.label>
        )}
      </Title>
      <Tabs
        label="Price"
        tabs={[
          { to: to(""), label: "Prices", on: tab === "prices" && !unpriced },
          ...((counts?.unpriced ?? 0) > 0
            ? [{ to: to("state=unpriced"), label: "Without a price", count: counts?.unpriced, on: unpriced }]
            : []),
          { to: to("tab=rules"), label: "Rules", on: tab === "rules" },
          { to: to("tab=fees"), label: "Fees", on: tab === "fees" },
          { to: to("tab=terms"), label: "Terms and rates", on: tab === "terms" },
          { to: to("tab=bench"), label: "Bench", on: tab === "bench" },
          { to: to("tab=what-if"), label: "What if", on: tab === "what-if" },
        ]}
      >
        {tab === "prices" && <Prices key={unpriced ? 1 : 0} />}
        {tab === "terms" && <Terms site={site} />}
        {tab !== "prices" &&
          tab !== "terms" &&
          (site ? (
            <>
              {tab === "fees" && <Fees key={site.id} site={site} />}
              {tab === "rules" && <Rules key={site.id} site={site} />}
              {tab === "bench" && <Bench site={site} />}
              {tab === "what-if" && <WhatIf key={everywhere ? 0 : site.id} site={everywhere ? undefined : site} />}
            </>
          ) : (
            sites && <Empty title="No marketplace yet">Add one under Places; a rule comes with it.</Empty>
          ))}
      </Tabs>
    </>
  );
}
