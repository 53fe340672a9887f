import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef } from "react";
import { api, read, type Schemas } from "./client";

export const useToday = () => useQuery({ queryKey: ["today"], queryFn: () => read(api.GET("/api/today")) });
export const useCounts = () => useQuery({ queryKey: ["counts"], queryFn: () => read(api.GET("/api/counts")) });
export const useRuns = () => useQuery({ queryKey: ["runs"], queryFn: () => read(api.GET("/api/runs")) });
export const useSources = () => useQuery({ queryKey: ["sources"], queryFn: () => read(api.GET("/api/sources")) });
export const useSites = () => useQuery({ queryKey: ["sites"], queryFn: () => read(api.GET("/api/sites")) });
export const useSieves = () => useQuery({ queryKey: ["sieves"], queryFn: () => read(api.GET("/api/sieves")) });
export const useClock = () =>
  useQuery({ queryKey: ["clock"], queryFn: () => read(api.GET("/api/demo")), refetchInterval: 3000 });

export const useListing = (id: number) =>
  useQuery({
    queryKey: ["listings", "one", id],
    queryFn: () => read(api.GET("/api/listings/{id}", { params: { path: { id } } })),
  });

/** useHistory is what a marketplace confirmed of a listing, oldest first. */
export const useHistory = (id: number) =>
  useQuery({
    queryKey: ["listings", "history", id],
    queryFn: () => read(api.GET("/api/listings/{id}/history", { params: { path: { id } } })),
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

export const useCategories = (site: number | undefined) =>
  useQuery({
    queryKey: ["sites", "categories", site],
    enabled: site !== undefined,
    queryFn: () => read(api.GET("/api/sites/{id}/categories", { params: { path: { id: site ?? 0 } } })),
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

/** useAnswer asks the core a question that changes as it is typed. The last answer
 * stays while the next is on its way, and while what is typed can't be read. */
export function useAnswer<T>(key: unknown[], ask: (signal: AbortSignal) => Promise<T>, on = true) {
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ["listings", ...key],
    retry: false,
    enabled: on,
    queryFn: ({ signal }) => ask(signal), // a question that was overtaken is not worked on any longer
  });
  const last = useRef(data);
  if (data !== undefined) last.current = data;
  return { data: last.current, error, isFetching, refetch };
}
