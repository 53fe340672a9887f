import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef } from "react";
import { api, read, type Schemas } from "./client";

export const useToday = () => useQuery({ queryKey: ["today"], queryFn: () => read(api.GET("/api/today")) });
export const useCounts = () => useQuery({ queryKey: ["counts"], queryFn: () => read(api.GET("/api/counts")) });
export const useRuns = () => useQuery({ queryKey: ["runs"], queryFn: () => read(api.GET("/api/runs")) });
export const useSources = () => useQuery({ queryKey: ["sources"], queryFn: () => read(api.GET("/api/sources")) });
export const useSites = () => useQuery({ queryKey: ["sites"], queryFn: () => read(api.GET("/api/sites")) });
export const usePlan = (site?: number) =>
  useQuery({
    queryKey: ["plan", "open", site],
    queryFn: () => read(api.GET("/api/plan", { params: { query: { site } } })),
  });
export const useClock = () =>
  useQuery({ queryKey: ["clock"], queryFn: () => read(api.GET("/api/demo")), refetchInterval: 3000 });

export const useFeed = (id: number) =>
  useQuery({ queryKey: ["feeds", id], queryFn: () => read(api.GET("/api/feeds/{id}", { params: { path: { id } } })) });

export const useListing = (id: number) =>
  useQuery({
    queryKey: ["listings", "one", id],
    queryFn: () => read(api.GET("/api/listings/{id}", { params: { path: { id } } })),
  });

/** useLines opens a listing's price, or another price for it, into its lines. */
export const useLines = (id: number, price?: number) =>
  useQuery({
    queryKey: ["listings", "lines", id, price],
    queryFn: () => read(api.GET("/api/listings/{id}/lines", { params: { path: { id }, query: { price } } })),
  });

export const useVariants = (id: number) =>
  useQuery({
    queryKey: ["listings", "variants", id],
    queryFn: () => read(api.GET("/api/listings/{id}/variants", { params: { path: { id } } })),
  });

export const useCandidates = (id: number | undefined, words: string) =>
  useQuery({
    queryKey: ["matches", "candidates", id, words],
    enabled: id !== undefined,
    retry: false,
    queryFn: () =>
      read(api.GET("/api/matches/{id}/candidates", { params: { path: { id: id ?? 0 }, query: { words } } })),
  });

export const useSendOut = (id: number) =>
  useQuery({
    queryKey: ["sendouts", id],
    queryFn: () => read(api.GET("/api/send-outs/{id}", { params: { path: { id } } })),
  });

/** useSettings is what a column can be read as: the same for every source. */
export const useSettings = () =>
  useQuery({
    queryKey: ["fields"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => read(api.GET("/api/fields")),
  });

export const useSourceSettings = (id: number) =>
  useQuery({
    queryKey: ["sources", "settings", id],
    queryFn: () => read(api.GET("/api/sources/{id}/settings", { params: { path: { id } } })),
  });

export const useRules = (site: number | undefined) =>
  useQuery({
    queryKey: ["rules", site],
    enabled: site !== undefined,
    queryFn: () => read(api.GET("/api/sites/{id}/rules", { params: { path: { id: site ?? 0 } } })),
  });

export const useCategories = (site: number | undefined) =>
  useQuery({
    queryKey: ["sites", "categories", site],
    enabled: site !== undefined,
    queryFn: () => read(api.GET("/api/sites/{id}/categories", { params: { path: { id: site ?? 0 } } })),
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

export const useRates = () => useQuery({ queryKey: ["sites", "rates"], queryFn: () => read(api.GET("/api/rates")) });

export type Part<T> = { rows: T[]; total: number; more?: boolean; next: string };
type Paging = { cursor?: string; limit: number };

/** useParts reads a list part by part, as it is scrolled through. */
export function useParts<T>(key: unknown[], get: (p: Paging) => Promise<Part<T>>, on = true) {
  const q = useInfiniteQuery({
    queryKey: key,
    enabled: on,
    initialPageParam: "",
    queryFn: ({ pageParam }) => get({ cursor: pageParam || undefined, limit: 200 }),
    getNextPageParam: (last) => last.next || undefined,
  });
  const rows = useMemo(() => q.data?.pages.flatMap((p) => p.rows) ?? [], [q.data]);
  const { fetchNextPage, isFetchingNextPage, hasNextPage } = q;
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) fetchNextPage();
  }, [fetchNextPage, hasNextPage, isFetchingNextPage]);
  return {
    rows,
    total: q.data?.pages[0]?.total ?? 0,
    uncounted: q.data?.pages[0]?.more ?? false, // there are more than total
    more,
    loading: q.isLoading,
    error: q.error,
    retry: () => q.refetch(),
  };
}

export type Listing = Schemas["ListingRow"];
type ListingQuery = { state?: string; words?: string; site?: number; sort?: string; desc?: boolean };

export const useListings = (query: ListingQuery, on = true) =>
  useParts<Listing>(
    ["listings", query],
    (p) => read(api.GET("/api/listings", { params: { query: { ...query, ...p } } })),
    on,
  );

/** useDo is a write: it reads the lists of the topics again when it is done. */
export function useDo<In, Out>(doIt: (input: In) => Promise<Out>, ...topics: string[]) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: doIt,
    onSettled: () =>
      client.invalidateQueries({ predicate: (q) => [...topics, "counts", "today"].includes(String(q.queryKey[0])) }),
  });
}
