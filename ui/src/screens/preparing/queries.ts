import { useQuery } from "@tanstack/react-query";
import { api, read, type Schemas } from "../../api/client";
import { useParts } from "../../api/queries";
import type { Sorting } from "../../parts/grid";

export type Prepared = Schemas["PreparedView"];
export type Field = Schemas["SaidField"];
export type Row = Schemas["PreparationRow"];
export type Say = Schemas["FieldSaid"];

/** several are the values of a field that takes more than one. */
export const several = (field: string, value: string) =>
  field === "words" || field === "title.parts" ? value.split(/[,|]/).map((w) => w.trim()) : [value];

/** prepareTopics are the lists that what is said of a listing is seen in. */
export const prepareTopics = ["prepare", "listings"];

type Part = "" | "ready" | "all" | "changed";

export const usePreparations = (site: number, part: Part, words: string, sorting?: Sorting) =>
  useParts<Row>(["prepare", "list", site, part, words, sorting?.sort, sorting?.desc], (p) =>
    read(
      api.GET("/api/preparations", {
        params: {
          query: { ...p, site: site || undefined, part: part || undefined, words: words || undefined, ...sorting },
        },
      }),
    ),
  );

export const useLacking = (site: number) =>
  useQuery({
    queryKey: ["prepare", "lacking", site],
    queryFn: () => read(api.GET("/api/preparations/lacking", { params: { query: { site: site || undefined } } })),
  });

export const usePrepared = (id: number, on = true) =>
  useQuery({
    queryKey: ["prepare", id],
    enabled: on,
    queryFn: () => read(api.GET("/api/preparations/{id}", { params: { path: { id } } })),
  });

export const useDemands = (site: number | undefined) =>
  useQuery({
    queryKey: ["prepare", "demands", site],
    enabled: !!site,
    queryFn: () => read(api.GET("/api/sites/{id}/demands", { params: { path: { id: site as number } } })),
  });
