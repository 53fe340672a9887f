import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { api, read, type Schemas } from "../../api/client";

export const useRules = (site: number | undefined) =>
  useQuery({
    queryKey: ["rules", site],
    enabled: site !== undefined,
    queryFn: () => read(api.GET("/api/sites/{id}/rules", { params: { path: { id: site ?? 0 } } })),
  });

/** useAnswer asks the core a question that changes as it is typed. The last answer
 * stays while the next is on its way, and while what is typed can't be read. */
function useAnswer<T>(key: unknown[], ask: (signal: AbortSignal) => Promise<T>) {
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ["listings", ...key],
    retry: false,
    queryFn: ({ signal }) => ask(signal), // a question that was overtaken is not worked on any longer
  });
  const last = useRef(data);
  if (data !== undefined) last.current = data;
  return { data: last.current, error, isFetching, refetch };
}

/** usePreview is what a rule would do if it were kept. */
export const usePreview = (site: number, rule: Schemas["NamedRule"]) =>
  useAnswer(["preview", site, rule], (signal) =>
    read(api.POST("/api/sites/{id}/rules/preview", { params: { path: { id: site } }, body: rule, signal })),
  );

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
