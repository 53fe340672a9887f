import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listPreparations, useGetPreparation, useListMissingFields, useListRequirements } from "../../api/operations";
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
  useParts(listPreparations, {
    query: { site: site || undefined, part: part || undefined, words: words || undefined, ...sorting },
  });

export const useLacking = (site: number) => useListMissingFields({ query: { site: site || undefined } });

export const usePrepared = (id: number, on = true) => useGetPreparation({ path: { id } }, { enabled: on });

export const useDemands = (site: number | undefined) =>
  useListRequirements({ path: { id: site as number } }, { enabled: !!site });
