import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button, Quiet } from "./controls";
import { writes } from "./kinds";

type Site = Schemas["SiteView"];

const remembered = "list on";

/** useTargets are the sites that a find is listed on: the last choice is kept. */
export function useTargets(sites: Site[] | undefined) {
  const [chosen, setChosen] = useState<number[] | null>(() => {
    const text = localStorage.getItem(remembered);
    return text ? text.split(",").map(Number) : null;
  });
  const open = (sites ?? []).filter((s) => s.lists).map((s) => s.id);
  const ids = chosen ? chosen.filter((id) => sites?.some((s) => s.id === id)) : open.slice(0, 1);
  return {
    ids,
    toggle: (id: number) => {
      const next = ids.includes(id) ? ids.filter((x) => x !== id) : [...ids, id];
      localStorage.setItem(remembered, next.join(","));
      setChosen(next);
    },
  };
}

/** Targets is the choice of them. */
export function Targets({ sites, to }: { sites: Site[] | undefined; to: ReturnType<typeof useTargets> }) {
  if (!sites || sites.length < 2) return null;
  return (
    <chakra.div role="group" aria-label="List on" display="flex" gap="1.5" alignItems="center" flexWrap="wrap" pb="2">
      <Quiet>List on</Quiet>
      {sites
        .filter((s) => s.kind === "catalogue" || writes(s.kind))
        .map((s) => (
          <Button key={s.id} size="small" aria-pressed={to.ids.includes(s.id)} onClick={() => to.toggle(s.id)}>
            <chakra.span aria-hidden="true" mr="1" visibility={to.ids.includes(s.id) ? undefined : "hidden"}>
              ✓
            </chakra.span>
            {s.name}
          </Button>
        ))}
    </chakra.div>
  );
}
