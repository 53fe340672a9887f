import type { Schemas } from "../../api/client";
import {
  previewListingRule,
  previewRule,
  previewSite,
  quotePrice,
  quotePriceBySite,
  tryCosts,
  tryCostsOnSite,
  useGetFees,
  useListRules,
} from "../../api/operations";
import { useAnswer } from "../../api/queries";

export const useRules = (site: number | undefined) =>
  useListRules({ path: { id: site ?? 0 } }, { enabled: site !== undefined });

type Preview = Schemas["Preview"];

/** usePreviewed asks what something would do: at once from some of the listings where a site has many, and then
 * from all. */
function usePreviewed(key: unknown[], ask: (sample: boolean, signal: AbortSignal) => Promise<Preview>, on = true) {
  const first = useAnswer([...key, "sample"], (signal) => ask(true, signal), on);
  const part = on && !!first.data && first.data.looked < first.data.listings;
  const all = useAnswer([...key, "all"], (signal) => ask(false, signal), part && !first.isFetching);
  const whole = part && all.data && !all.isFetching ? all : first;
  return { ...whole, isFetching: first.isFetching || all.isFetching };
}

/** usePreview is what a rule would do if it were kept. */
export const usePreview = (site: number, rule: Schemas["NamedRule"]) =>
  usePreviewed(["preview", site, rule], (sample, signal) =>
    previewRule({ path: { id: site }, query: { sample }, body: rule }, signal),
  );

/** useSitePreview is what a site's terms or particulars would do if they were kept. Nothing is asked while nothing
 * is changed. */
export const useSitePreview = (site: number, change: Schemas["SiteChange"], on: boolean) =>
  usePreviewed(
    ["site preview", site, change],
    (sample, signal) => previewSite({ path: { id: site }, query: { sample }, body: change }, signal),
    on,
  );

/** useOwnPreview is the price one listing would have by a rule of its own. */
export const useOwnPreview = (id: number, rule: Schemas["Rule"]) =>
  useAnswer(["own preview", id, rule], (signal) => previewListingRule({ path: { id }, body: { rule } }, signal));

/** useWhatIf asks a question of one site's listings, or of those of every site we list on. */
export const useWhatIf = (site: number | undefined, ask: Schemas["WhatIf"]) =>
  useAnswer(
    ["what if", site, ask],
    async (signal): Promise<{ one?: Schemas["WhatIfAnswer"]; all?: Schemas["WhatIfAll"] }> =>
      site
        ? {
            one: await tryCostsOnSite({ path: { id: site }, body: ask }, signal),
          }
        : { all: await tryCosts({ body: ask }, signal) },
  );

export const useBench = (ask: Schemas["BenchAsk"]) =>
  useAnswer(["bench", ask], (signal) => quotePrice({ body: ask }, signal));

export const useBenchSites = (ask: Schemas["BenchAsk"]) =>
  useAnswer(["bench sites", ask], (signal) => quotePriceBySite({ body: ask }, signal));

export const useFees = (site: number | undefined) =>
  useGetFees({ path: { id: site ?? 0 } }, { enabled: site !== undefined });
