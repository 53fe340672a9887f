import { useQuery } from "@tanstack/react-query";
import { api, read } from "../../api/client";

export const useFeed = (id: number) =>
  useQuery({ queryKey: ["feeds", id], queryFn: () => read(api.GET("/api/feeds/{id}", { params: { path: { id } } })) });

/** useFields is what a column can be read as: the same for every source. */
export const useFields = () =>
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
