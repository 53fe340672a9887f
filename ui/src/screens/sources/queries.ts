import { useQuery } from "@tanstack/react-query";
import { listFeedFields, useGetFeed, useGetSourceSettings } from "../../api/operations";

export const useFeed = (id: number) => useGetFeed({ path: { id } });

/** useFields is what a column can be read as: the same for every source. */
export const useFields = () =>
  useQuery({
    queryKey: ["fields"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => listFeedFields(),
  });

export const useSourceSettings = (id: number) => useGetSourceSettings({ path: { id } });
