import { useQuery } from "@tanstack/react-query";
import { api, read, type Schemas } from "../../api/client";
import { useAnswer } from "../../api/queries";

export const useRules = (site: number | undefined) =>
  useQuery({
    queryKey: ["rules", site],
    enabled: site !== undefined,
    queryFn: () => read(api.GET("/api/sites/{id}/rules", { params: { path: { id: site ?? 0 } } })),
  });

/** usePreview is what a rule would do if it were kept: at once from some of the
 * listings where a site has many, and then from all. */
export function usePreview(site: number, rule: Schemas["NamedRule"]) {
  const ask = (sample: boolean) => (signal: AbortSignal) =>
    read(
      api.POST("/api/sites/{id}/rules/preview", {
        params: { path: { id: site }, query: { sample } },
        body: rule,
        signal,
      }),
    );
  const first = useAnswer(["preview", site, rule, "sample"], ask(true));
  const part = !!first.data && first.data.looked < first.data.listings;
  const all = useAnswer(["preview", site, rule, "all"], ask(false), part && !first.isFetching);
  const whole = part && all.data && !all.isFetching ? all : first;
  return { ...whole, isFetching: first.isFetching || all.isFetching };
}

/** useOwnPreview is the price one listing would have by a rule of its own. */
export const useOwnPreview = (id: number, rule: Schemas["Rule"]) =>
  useAnswer(["own preview", id, rule], (signal) =>
    read(api.POST("/api/listings/{id}/rule/preview", { params: { path: { id } }, body: { rule }, signal })),
  );

/** useWhatIf asks a question of one site's listings, or of those of every site we list on. */
export const useWhatIf = (site: number | undefined, ask: Schemas["WhatIf"]) =>
  useAnswer(
    ["what if", site, ask],
    async (signal): Promise<{ one?: Schemas["WhatIfAnswer"]; all?: Schemas["WhatIfAll"] }> =>
      site
        ? {
            one: await read(api.POST("/api/sites/{id}/what-if", { params: { path: { id: site } }, body: ask, signal })),
          }
        : { all: await read(api.POST("/api/what-if", { body: ask, signal })) },
  );

export const useBench = (ask: Schemas["BenchAsk"]) =>
  useAnswer(["bench", ask], (signal) => read(api.POST("/api/bench", { body: ask, signal })));

export const useBenchSites = (ask: Schemas["BenchAsk"]) =>
  useAnswer(["bench sites", ask], (signal) => read(api.POST("/api/bench/sites", { body: ask, signal })));

export const useFees = (site: number | undefined) =>
  useQuery({
    queryKey: ["sites", "fees", site],
    enabled: site !== undefined,
    queryFn: () => read(api.GET("/api/sites/{id}/fees", { params: { path: { id: site ?? 0 } } })),
  });
