import { useQuery } from "@tanstack/react-query";
import { api, read, type Schemas } from "../../api/client";

export type Match = Schemas["MatchRow"];
export type Candidate = Schemas["CandidateView"];
export type Desk = Schemas["DeskView"];
export type State = "waiting" | "certain" | "later" | "new entry" | "decided";

/** matchTopics are the lists that a decision changes. */
export const matchTopics = ["matches", "products", "listings", "pool"];

export const useDesk = (id: number | undefined, words: string) =>
  useQuery({
    queryKey: ["matches", "candidates", id, words],
    enabled: id !== undefined,
    retry: false,
    queryFn: () =>
      read(api.GET("/api/matches/{id}/candidates", { params: { path: { id: id ?? 0 }, query: { words } } })),
  });

export const useAlike = (id: number, on: boolean) =>
  useQuery({
    queryKey: ["matches", "alike", id],
    enabled: on,
    queryFn: () => read(api.GET("/api/matches/{id}/alike", { params: { path: { id } } })),
  });

export const usePool = () => useQuery({ queryKey: ["pool"], queryFn: () => read(api.GET("/api/pool")) });
