import { useQuery } from "@tanstack/react-query";
import { api, read } from "../../api/client";

export const useCandidates = (id: number | undefined, words: string) =>
  useQuery({
    queryKey: ["matches", "candidates", id, words],
    enabled: id !== undefined,
    retry: false,
    queryFn: () =>
      read(api.GET("/api/matches/{id}/candidates", { params: { path: { id: id ?? 0 }, query: { words } } })),
  });
