import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useReadRequirements, useUpdateRequirements } from "../../api/operations";
import { useCategories, useClock } from "../../api/queries";
import { Button, Code, Empty, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { Panel } from "../../parts/panel";
import { time } from "../../parts/when";
import { Blanks } from "./blanks";
import { OurWords } from "./ourwords";
import { useDemands } from "./queries";

type Site = Schemas["SiteView"];

/** Asked is what a site asks for, category by category, and what changed in it. */
export function Asked({ sites, site: chosen }: { sites: Site[]; site: number }) {
  const site = chosen || sites[0]?.id;
  const of = sites.find((s) => s.id === site);
  const { data, error, refetch } = useDemands(site);
  const { data: clock } = useClock();
  const [open, setOpen] = useState<string | null>(null);
  const again = useReadRequirements(() => ({ path: { id: site } }));
  const { data: categories } = useCategories(site || undefined);
  const without = categories?.filter((c) => !data?.some((d) => d.category === c.ref)) ?? [];
  const opened =
    data?.find((d) => d.category === open) ??
    without.filter((c) => c.ref === open).map((c) => ({ category: c.ref, path: c.name, needs: example }))[0];
  return (
    <>
      <chakra.div hidden={of?.kind === "sheet"} display="flex" gap="2" alignItems="center" py="2">
        <Quiet flex="1">Read again every day, for the categories you list in.</Quiet>
        <Button size="small" disabled={again.isPending || !site} onClick={() => again.mutate(undefined)}>
          Read them again now
        </Button>
      </chakra.div>
      <Trouble error={error ?? again.error} retry={() => refetch()} />
      {data?.length === 0 && of?.kind !== "sheet" && (
        <Empty title="Nothing was read yet">
          Once a product is listed here, what its category asks for is read from the gateway.
        </Empty>
      )}
      <chakra.div display="flex" gap="4" flex="1" minH="0">
        <chakra.div flex="1" overflowY="auto">
          {of?.kind === "sheet" && <Blanks key={of.id} site={of} />}
          {data?.map((d) => (
            <chakra.button
              key={d.category}
              type="button"
              onClick={() => setOpen(d.category)}
              aria-pressed={open === d.category}
              display="grid"
              gridTemplateColumns="minmax(200px, 1fr) 130px 130px 110px minmax(160px, 1fr)"
              gap="3"
              w="100%"
              textAlign="left"
              alignItems="center"
              px="2"
              minH="38px"
              borderBottomWidth="1px"
              borderColor="hair"
              cursor="pointer"
              _hover={{ bg: "band" }}
            >
              <chakra.span fontWeight="600" truncate>
                {d.path}
              </chakra.span>
              <span>
                <Code color="ink">{d.needed}</Code> of {d.attributes} needed
              </span>
              <span>
                <Code color="ink">{d.listings}</Code> of yours
              </span>
              <Word>
                {d.origin === "person"
                  ? "written down"
                  : `${d.origin === "sheet" ? "its sheet" : "read"} ${time(d.read_at, clock?.now)}`}
              </Word>
              <chakra.span truncate title={d.changes.join("; ")}>
                {d.changes.length > 0 ? `changed: ${d.changes.join("; ")}` : <Quiet>as before</Quiet>}
              </chakra.span>
            </chakra.button>
          ))}
          {without.length > 0 && of?.kind !== "sheet" && (
            <chakra.label display="flex" gap="2" alignItems="center" py="3">
              Write down what another category asks for
              <Select
                w="240px"
                h="30px"
                value={data?.some((d) => d.category === open) ? "" : (open ?? "")}
                onChange={(e) => setOpen(e.target.value || null)}
              >
                <option value="">choose it</option>
                {without.map((c) => (
                  <option key={c.ref} value={c.ref}>
                    {c.name}
                  </option>
                ))}
              </Select>
            </chakra.label>
          )}
          {site && <OurWords site={site} />}
        </chakra.div>
        {opened && site && (
          <Panel label={`What ${opened.path} asks for`} onClose={() => setOpen(null)}>
            <Written key={opened.category} site={site} category={opened.category} needs={opened.needs} />
          </Panel>
        )}
      </chakra.div>
    </>
  );
}

// What a category asks for to begin with, where a person writes it down.
const example =
  '{"title": {"limit": 60}, "description": {"least": 20}, "attributes": [{"ref": "condition", "kind": "choice", "need": "needed", "values": ["New", "Used"]}], "pictures": {"least": 1, "most": 5}}';

/** Written is what a category asks for as it is kept, to be written otherwise by hand. */
function Written({ site, category, needs }: { site: number; category: string; needs: string }) {
  const [text, setText] = useState(() => JSON.stringify(JSON.parse(needs), null, 1));
  const keep = useUpdateRequirements(() => ({ path: { id: site }, body: { category, needs: text } }));
  return (
    <chakra.form
      display="flex"
      flexDirection="column"
      gap="2"
      flex="1"
      minH="0"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(undefined);
      }}
    >
      <Quiet fontSize="12.5px">
        As it is kept. What you write here holds from then on, and the gateway is no longer asked for this category.
      </Quiet>
      <chakra.textarea
        aria-label="What is asked for, JSON"
        value={text}
        spellCheck={false}
        onChange={(e) => setText(e.target.value)}
        fontFamily="mono"
        fontSize="12px"
        flex="1"
        minH="320px"
        p="2"
        bg="panel"
        borderWidth="1px"
        borderColor="hair"
        rounded="4px"
      />
      <Trouble error={keep.error} />
      {keep.isSuccess && <Quiet role="status">Kept; the listings there are looked at again.</Quiet>}
      <Button type="submit" look="main" disabled={keep.isPending}>
        Keep what I wrote
      </Button>
    </chakra.form>
  );
}
