import { chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { download, type Schemas } from "../../api/client";
import {
  inspectSheetReport,
  listSheets,
  listSubmissionSheets,
  useMarkSheetAccepted,
  useMarkSheetNotUploaded,
  useMarkSheetUploaded,
} from "../../api/operations";
import { useClock, useDo, useSites } from "../../api/queries";
import { Button, Code, Empty, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { Drop } from "../../parts/drop";
import { useKeys } from "../../parts/keys";
import { time } from "../../parts/when";
import { LightFiles } from "./light";
import { ReportForm } from "./report";

type File = Schemas["SheetFile"];

export const useSheets = (sendOut?: number) =>
  useQuery({
    queryKey: ["sendouts", "sheets", sendOut ?? 0],
    queryFn: () => (sendOut ? listSubmissionSheets({ path: { id: sendOut } }) : listSheets()),
  });

/** Sheets are filled sheets on their way: to be taken to their place, then its
 * report to be read in. */
export function Sheets() {
  const list = useSheets();
  const first = list.data?.find((f) => !f.uploaded && !f.stale);
  const { data: all } = useSites();
  const sites = new Map(all?.filter((s) => s.kind === "sheet" && s.lists).map((s) => [s.id, s.name]));
  for (const f of list.data ?? []) sites.set(f.site_id, f.site); // and places that have no gateway
  return (
    <chakra.div overflowY="auto">
      <Trouble error={list.error} retry={() => list.refetch()} />
      {list.data?.length === 0 && (
        <Empty title="No filled sheets wait">
          What you send to a place that takes sheets becomes a file here: you take it there, and read its report in.
        </Empty>
      )}
      {list.data?.map((f) => (
        <One key={f.id} file={f} keyed={f.id === first?.id} />
      ))}
      {[...sites].map(([id, name]) => (
        <Reports key={id} site={id} name={name} />
      ))}
      <LightFiles />
    </chakra.div>
  );
}

/** One is a filled sheet: what is done with it next is one key. */
export function One({ file: f, keyed }: { file: File; keyed: boolean }) {
  const { data: clock } = useClock();
  const had = f.fetched !== null;
  const get = useDo(() => download(`/api/v1/sheets/${f.id}/content`, f.name));
  const nowhere = useMarkSheetNotUploaded(() => ({ path: { id: f.id } }));
  const uploaded = useMarkSheetUploaded(() => ({ path: { id: f.id } }));
  const taken = useMarkSheetAccepted(() => ({ path: { id: f.id } }));
  const next = () => (had ? uploaded.mutate(undefined) : get.mutate(undefined));
  useKeys({ u: next }, keyed, keyed ? [["u", had ? "say that the sheet is uploaded" : "download the next sheet"]] : []);
  return (
    <chakra.section aria-label={f.name} borderBottomWidth="1px" borderColor="hair" py="2">
      <chakra.div display="flex" gap="3" alignItems="center">
        <chakra.strong w="300px" truncate title={f.name}>
          {f.name}
        </chakra.strong>
        {f.address ? (
          <a href={`${f.address}/`} target="_blank" rel="noreferrer" title="Open the place">
            <chakra.span textDecoration="underline">{f.site}</chakra.span>
          </a>
        ) : (
          <span>{f.site}</span>
        )}
        <span>
          <Code color="ink">{f.rows}</Code> {f.rows === 1 ? "line" : "lines"}
        </span>
        <Quiet>made {time(f.made, clock?.now)}</Quiet>
        <chakra.span flex="1" />
        {f.uploaded ? (
          <>
            <Outcome file={f} />
            {f.open + f.taken > 0 && (
              <Button size="small" disabled={taken.isPending} onClick={() => taken.mutate(undefined)}>
                All of it was taken
              </Button>
            )}
            <Word tone="good">uploaded {time(f.uploaded, clock?.now)}</Word>
          </>
        ) : f.stale ? (
          <Word tone="bad">not to be uploaded</Word>
        ) : (
          <>
            {had && (
              <Button size="small" disabled={nowhere.isPending} onClick={() => nowhere.mutate(undefined)}>
                Not uploaded
              </Button>
            )}
            <Button
              size="small"
              look={had ? undefined : "main"}
              disabled={get.isPending}
              onClick={() => get.mutate(undefined)}
            >
              Download {keyed && !had && <Key>u</Key>}
            </Button>
            <Button
              size="small"
              look={had ? "main" : undefined}
              disabled={uploaded.isPending}
              onClick={() => uploaded.mutate(undefined)}
            >
              I have uploaded it {keyed && had && <Key>u</Key>}
            </Button>
          </>
        )}
      </chakra.div>
      {f.stale && <chakra.div color="loss">{f.stale}</chakra.div>}
      {f.stale && had && (
        <chakra.div role="group" aria-label="Was it uploaded?" display="flex" gap="2" alignItems="center" pt="1">
          It was downloaded {time(f.fetched, clock?.now)}: was it uploaded then?
          <Button size="small" disabled={uploaded.isPending} onClick={() => uploaded.mutate(undefined)}>
            It was
          </Button>
          <Button size="small" disabled={nowhere.isPending} onClick={() => nowhere.mutate(undefined)}>
            It wasn't
          </Button>
        </chakra.div>
      )}
      {f.asked.map((a) => (
        <div key={a.sku}>
          They ask about <Code color="ink">{a.sku}</Code>: {a.words}
        </div>
      ))}
      <Trouble error={get.error ?? uploaded.error ?? taken.error ?? nowhere.error} />
    </chakra.section>
  );
}

function Outcome({ file: f }: { file: File }) {
  const parts = [
    f.confirmed > 0 && `${f.confirmed} listed`,
    f.refused > 0 && `${f.refused} refused`,
    f.taken > 0 && `${f.taken} they are at`,
    f.open > 0 && `${f.open} without a word`,
  ].filter(Boolean);
  return <span>{parts.join(", ")}</span>;
}

/** Reports takes a place's report of filled sheets. */
function Reports({ site, name }: { site: number; name: string }) {
  const [look, setLook] = useState<Schemas["Report"]>();
  const [taken, setTaken] = useState<Schemas["ReportTaken"]>();
  const drop = useDo((f: globalThis.File) =>
    inspectSheetReport({
      path: { id: site },
      query: { name: f.name },
      body: f,
    }),
  );
  return (
    <Drop
      title={`Report of ${name}`}
      more="The file in which it says what became of your lines. Its columns are looked at once, and known from then on."
      busy={drop.isPending}
      error={drop.error}
      onFile={(f) => drop.mutate(f, { onSuccess: setLook })}
    >
      {taken && (
        <chakra.div role="status" py="1">
          Read in: {taken.confirmed} listed, {taken.refused} refused, {taken.taken} they are at.
          {taken.strange.length > 0 && ` No open line has the SKU ${taken.strange.join(", ")}.`}
        </chakra.div>
      )}
      {look && (
        <ReportForm
          key={look.token}
          site={site}
          look={look}
          onDone={(t) => {
            setTaken(t);
            setLook(undefined);
          }}
        />
      )}
    </Drop>
  );
}
