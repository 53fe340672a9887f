import { useQuery } from "@tanstack/react-query";
import { api, read } from "../../api/client";

export const usePlan = (site?: number) =>
  useQuery({
    queryKey: ["plan", "open", site],
    queryFn: () => read(api.GET("/api/plan", { params: { query: { site } } })),
  });
