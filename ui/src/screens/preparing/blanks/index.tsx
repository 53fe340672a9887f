import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { inspectTemplate, useListTemplates } from "../../../api/operations";
import { useClock, useDo } from "../../../api/queries";
import { Code, Quiet, Trouble, Word } from "../../../parts/controls";
import { Drop } from "../../../parts/drop";
import { time } from "../../../parts/when";
import { Mapping } from "./mapping";

type Kept = Schemas["BlankKept"];

/** Blanks are a place's own sheets: dropped, looked at, kept for a category each.
 * What a sheet asks for is what its category demands from then on. */
export function Blanks({ site }: { site: Schemas["SiteView"] }) {
  const { data: clock } = useClock();
  const list = useListTemplates({ path: { id: site.id } });
  const [look, setLook] = useState<Schemas["BlankLook"]>();
  const [kept, setKept] = useState<Kept>();
  const drop = useDo((f: File) => inspectTemplate({ path: { id: site.id }, query: { name: f.name }, body: f }));
  const done = (k: Kept) => {
    setKept(k);
    setLook(undefined);
  };
  return (
    <>
      <Drop
        title={`Blank sheets of ${site.name}`}
        more="The sheet that it gives sellers for a category (XLSX, XLSM, CSV), and one for changes of price and stock if it has one. A newer one is dropped in the same way, and compared."
        busy={drop.isPending}
        error={drop.error}
        onFile={(f) => drop.mutate(f, { onSuccess: setLook })}
      >
        <Trouble error={list.error} retry={() => list.refetch()} />
        {kept && <WhatChanged of={kept} site={site.id} />}
        {!look &&
          list.data?.map((b) => (
            <chakra.div key={b.category} display="flex" gap="3" py="1" alignItems="center">
              <chakra.span fontWeight="600" w="240px" truncate>
                {b.path}
              </chakra.span>
              <chakra.span flex="1" truncate>
                {b.name}
              </chakra.span>
              <span>
                <Code color="ink">{b.filled}</Code> columns filled
              </span>
              <Quiet w="104px">{time(b.at, clock?.now)}</Quiet>
              <a href={`/api/v1/sites/${site.id}/templates/layout?category=${encodeURIComponent(b.category)}`} download>
                its layout
              </a>
            </chakra.div>
          ))}
      </Drop>
      {look && <Mapping key={look.token} site={site.id} look={look} onDone={done} onLeave={() => setLook(undefined)} />}
    </>
  );
}

function WhatChanged({ of: k, site }: { of: Kept; site: number }) {
  return (
    <chakra.div role="status" py="1.5">
      Kept.{" "}
      {k.changes.length > 0 ? (
        <>
          <Word tone="bad">changed</Word> {k.changes.join("; ")}.{" "}
        </>
      ) : (
        "It asks for what it asked for before, or is the first of its category. "
      )}
      {k.listings > 0 ? (
        `${k.listings} of your listings there are looked at again.`
      ) : (
        <Link to={`?tab=add&site=${site}`}>
          <chakra.span textDecoration="underline">List products there</chakra.span>
        </Link>
      )}
    </chakra.div>
  );
}
