import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useDeletePictureChoice, useSetPictureChoice } from "../../../api/operations";
import { same } from "../../../parts/same";
import type { Prepared } from "../queries";

export type Recipe = Schemas["Recipe"];
export type Choice = Schemas["PictureChoice"];

/** lookAt is the address of a picture as a recipe makes it. */
export const lookAt = (digest: string, recipe: Recipe) =>
  `/api/v1/pictures/${digest}/preview?recipe=${encodeURIComponent(JSON.stringify(plain(recipe)))}`;

/** plain is a recipe without what it doesn't do. */
export function plain(r: Recipe): Recipe {
  return Object.fromEntries(Object.entries(r).filter(([, v]) => v !== "" && v !== 0 && v !== false && v != null));
}

const choiceOf = (p: Prepared["pictures"][number]): Choice => ({
  original: p.original,
  recipe: p.recipe,
  text: p.text || undefined,
});

/** useChoice is a choice of pictures as it is being made, with the one that is at hand. */
export function useChoice(l: Prepared) {
  const kept = l.pictures.map(choiceOf);
  const [list, setList] = useState(kept);
  const [at, setAt] = useState(0);
  const keep = useSetPictureChoice(() => ({
    path: { id: l.id },
    body: { pictures: list.map((c) => ({ ...c, recipe: plain(c.recipe) })) },
  }));
  const takeBack = useDeletePictureChoice(() => ({ path: { id: l.id } }));
  const alike = (a: Choice, b: Choice | undefined) =>
    b !== undefined &&
    a.original === b.original &&
    (a.text ?? "") === (b.text ?? "") &&
    same(plain(a.recipe), plain(b.recipe));
  return {
    list,
    at: Math.min(at, Math.max(list.length - 1, 0)),
    changed: list.length !== kept.length || list.some((c, i) => !alike(c, kept[i])),
    /** asKept is the picture as it was made, where nothing was changed since. */
    asKept: (i: number) => {
      const c = list[i];
      return c && l.pictures.find((p) => alike(c, choiceOf(p)));
    },
    error: keep.error ?? takeBack.error,
    pending: keep.isPending || takeBack.isPending,
    pick: (i: number) => setAt(Math.max(0, Math.min(i, list.length - 1))),
    add: (originals: string[]) => {
      setList([...list, ...originals.map((original) => ({ original, recipe: {} }))]);
      setAt(list.length + originals.length - 1);
    },
    drop: (i: number) => setList(list.filter((_, n) => n !== i)),
    move: (from: number, to: number) => {
      if (to < 0 || to >= list.length) return;
      const next = [...list];
      next.splice(to, 0, ...next.splice(from, 1));
      setList(next);
      setAt(to);
    },
    change: (i: number, by: Partial<Choice>) => setList(list.map((c, n) => (n === i ? { ...c, ...by } : c))),
    redo: (i: number, by: Partial<Recipe>) =>
      setList(list.map((c, n) => (n === i ? { ...c, recipe: { ...c.recipe, ...by } } : c))),
    /** alike does the same to all of them. */
    alike: (by: Partial<Recipe>) => setList(list.map((c) => ({ ...c, recipe: { ...c.recipe, ...by } }))),
    keep: () => keep.mutate(undefined),
    takeBack: () => takeBack.mutate(undefined, { onSuccess: (v) => setList(v.pictures.map(choiceOf)) }),
    undo: () => setList(kept),
  };
}

export type Choosing = ReturnType<typeof useChoice>;
