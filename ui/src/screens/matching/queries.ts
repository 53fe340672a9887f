import type { Schemas } from "../../api/client";
import { useGetOwnNumbers, useListMatchEntries, useListSimilarMatches } from "../../api/operations";

export type Match = Schemas["MatchRow"];
export type Candidate = Schemas["CandidateView"];
export type Desk = Schemas["DeskView"];
export type State = "waiting" | "certain" | "later" | "new entry" | "decided";

/** matchTopics are the lists that a decision changes. */
export const matchTopics = ["matches", "products", "listings", "pool"];

export const useDesk = (id: number | undefined, words: string) =>
  useListMatchEntries({ path: { id: id ?? 0 }, query: { words } }, { enabled: id !== undefined, retry: false });

export const useAlike = (id: number, on: boolean) => useListSimilarMatches({ path: { id } }, { enabled: on });

export const usePool = () => useGetOwnNumbers();
