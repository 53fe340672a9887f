import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, read, type Schemas } from "../../api/client";
import { useAnswer, useSites } from "../../api/queries";

export const usePlan = (site?: number) =>
  useQuery({
    queryKey: ["plan", "open", site],
    queryFn: () => read(api.GET("/api/plan", { params: { query: { site } } })),
    placeholderData: keepPreviousData,
  });

/** useWatchedSites are the sites to choose among: those with a plan, or all we list on. */
export function useWatchedSites(planned?: Schemas["PlanSite"][]) {
  const { data } = useSites();
  return planned ?? data?.filter((s) => s.lists).map((s) => ({ id: s.id, name: s.name })) ?? [];
}

export const useFollowing = (site: number) =>
  useQuery({
    queryKey: ["following", site],
    enabled: site > 0,
    queryFn: () => read(api.GET("/api/sites/{id}/following", { params: { path: { id: site } } })),
  });

/** useTrial is what other figures would make of a site's plan. */
export const useTrial = (site: number, ask: Schemas["Trial"]) =>
  useAnswer(["trial", site, ask], (signal) =>
    read(api.POST("/api/sites/{id}/following/try", { params: { path: { id: site } }, body: ask, signal })),
  );

export const useWatches = () => useQuery({ queryKey: ["watches"], queryFn: () => read(api.GET("/api/watches")) });

export const useMail = () => useQuery({ queryKey: ["mail"], queryFn: () => read(api.GET("/api/mail")) });

export const useMails = () => useQuery({ queryKey: ["mail", "sent"], queryFn: () => read(api.GET("/api/mails")) });

export const useLetters = (on: boolean) =>
  useQuery({
    queryKey: ["mail", "letters"],
    enabled: on,
    refetchInterval: 5000,
    queryFn: () => read(api.GET("/api/demo/letters")),
  });

export const useThroughTime = (id: number, days: number) =>
  useQuery({
    queryKey: ["listings", "through time", id, days],
    queryFn: () => read(api.GET("/api/listings/{id}/through-time", { params: { path: { id }, query: { days } } })),
  });
