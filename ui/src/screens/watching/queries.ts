import type { Schemas } from "../../api/client";
import {
  tryPolicy,
  useGetListingTimeline,
  useGetMailSettings,
  useGetPlan,
  useGetPolicy,
  useListDemoLetters,
  useListMails,
  useListWatches,
} from "../../api/operations";
import { useAnswer, useSites } from "../../api/queries";

export const usePlan = (site?: number) => useGetPlan({ query: { site } }, { keep: true });

/** useWatchedSites are the sites to choose among: those with a plan, or all we list on. */
export function useWatchedSites(planned?: Schemas["PlanSite"][]) {
  const { data } = useSites();
  return planned ?? data?.filter((s) => s.lists).map((s) => ({ id: s.id, name: s.name })) ?? [];
}

export const useFollowing = (site: number) => useGetPolicy({ path: { id: site } }, { enabled: site > 0 });

/** useTrial is what other figures would make of a site's plan. */
export const useTrial = (site: number, ask: Schemas["Trial"]) =>
  useAnswer(["trial", site, ask], (signal) => tryPolicy({ path: { id: site }, body: ask }, signal));

export const useWatches = () => useListWatches();

export const useMail = () => useGetMailSettings();

export const useMails = () => useListMails();

export const useLetters = (on: boolean) => useListDemoLetters({}, { enabled: on, every: 5000 });

export const useThroughTime = (id: number, days: number) => useGetListingTimeline({ path: { id }, query: { days } });
