import { QueryClient, type QueryClientConfig, useMutation, useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import type { Schemas } from "./client";
import { onWritten, useParts } from "./operation";
import {
  listListings,
  useGetCounts,
  useGetDemo,
  useGetListing,
  useGetListingPriceLines,
  useGetToday,
  useListCategories,
  useListExchangeRates,
  useListFilters,
  useListListingHistory,
  useListListingVariants,
  useListRuns,
  useListSites,
  useListSources,
} from "./operations";
import { showsAnyOf } from "./topics";

export const useToday = () => useGetToday();
export const useCounts = () => useGetCounts();
export const useRuns = () => useListRuns();
export const useSources = () => useListSources();
export const useSites = () => useListSites();
export const useSieves = () => useListFilters();
export const useClock = () => useGetDemo({}, { every: 3000 });

export const useListing = (id: number) => useGetListing({ path: { id } });

/** useHistory is what a marketplace confirmed of a listing, oldest first. */
export const useHistory = (id: number) => useListListingHistory({ path: { id } });

/** useLines opens a listing's price, or another price for it, into its lines. */
export const useLines = (id: number, price?: number) => useGetListingPriceLines({ path: { id }, query: { price } });

export const useVariants = (id: number) => useListListingVariants({ path: { id } });

export const useCategories = (site: number | undefined) =>
  useListCategories({ path: { id: site ?? 0 } }, { enabled: site !== undefined });

export const useRates = () => useListExchangeRates();

export type Listing = Schemas["ListingRow"];
type ListingQuery = { state?: string; words?: string; site?: number; sort?: string; desc?: boolean };

export const useListings = (query: ListingQuery, on = true) => useParts(listListings, { query: { ...query } }, on);

/** useDo is something done on the server that is more than one operation. */
export const useDo = <In, Out>(doIt: (input: In) => Promise<Out>) => useMutation({ mutationFn: doIt });

/** newClient keeps what was read. What an operation touches is read again after it. */
export function newClient(queries: QueryClientConfig["defaultOptions"] = {}) {
  const client = new QueryClient({ defaultOptions: queries });
  onWritten((topics) => refresh(client, topics));
  return client;
}

/** refresh reads again what is of some topics, and what counts them. */
const refresh = (client: QueryClient, topics: readonly string[]) =>
  client.invalidateQueries({ predicate: showsAnyOf(new Set([...topics, "counts", "today"])) });

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
