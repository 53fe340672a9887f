import { useQuery } from "@tanstack/react-query";
import { api, read } from "../../api/client";

export const useSendOut = (id: number) =>
  useQuery({
    queryKey: ["sendouts", id],
    queryFn: () => read(api.GET("/api/send-outs/{id}", { params: { path: { id } } })),
  });
