import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useDeleteFees, useReadFees, useUploadFees } from "../../api/operations";
import { useCategories, useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Empty, FileButton, Key, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { day, time } from "../../parts/when";
import { FeeDrawn, WarehouseDrawn } from "./bands";
import { FeeEditor } from "./feeeditor";
import { useFees } from "./queries";
import type { Draft, FeeRow } from "./schedule";
import { Trial } from "./trial";

type Site = Schemas["SiteView"];

/** Fees are what a site takes: a schedule for each category, its versions beside
 * each other, and a price to try on them. */
export function Fees({ site }: { site: Site }) {
  const a = useAddress();
  const { data, error } = useFees(site.id);
  const { data: clock } = useClock();
  const again = useReadFees(() => ({ path: { id: site.id } }));
  const refs = [...new Set(data?.map((f) => f.category))];
  const category = refs.includes(a.get("category")) ? a.get("category") : (refs[0] ?? "");
  const versions = data?.filter((f) => f.category === category) ?? [];
  const [editing, setEditing] = useState<Draft | null>(null);
  const go = (by: number) => {
    const i = refs.indexOf(category) + by;
    if (i >= 0 && i < refs.length) a.put({ category: refs[i] || null });
  };
  useKeys({ ArrowDown: () => go(1), ArrowUp: () => go(-1) }, !editing, [
    ["↓ ↑", "the next category, or the one before"],
  ]);
  return (
    <chakra.div display="grid" gridTemplateColumns="226px minmax(0, 1fr) 330px" gap="6" flex="1" minH="0" pt="3">
      <chakra.nav aria-label="Categories with fees of their own" overflowY="auto">
        {refs.map((ref) => {
          const rows = data?.filter((f) => f.category === ref) ?? [];
          const coming = rows.find((f) => !f.holds && !f.past);
          return (
            <chakra.button
              key={ref}
              type="button"
              display="block"
              w="100%"
              textAlign="left"
              px="2"
              py="1.5"
              rounded="4px"
              bg={ref === category ? "band" : undefined}
              fontWeight={ref === category ? "700" : "400"}
              aria-current={ref === category}
              onClick={() => a.put({ category: ref || null })}
            >
              {rows[0]?.name}
              {rows[0]?.path && (
                <Quiet display="block" fontSize="12px" fontWeight="400">
                  in {rows[0].path}
                </Quiet>
              )}
              {coming && (
                <chakra.span display="block" fontSize="12px" fontWeight="400" color="loss">
                  changes on {day(coming.starts_on)}
                </chakra.span>
              )}
            </chakra.button>
          );
        })}
        {data && !editing && (
          <OfItsOwn
            site={site}
            rows={data}
            onBegin={(f) => {
              a.put({ category: f.exact.category || null });
              setEditing(f);
            }}
          />
        )}
        <Quiet display="block" fontSize="12.5px" pt="3" px="2">
          Any other category pays what the one above it does. Read {time(site.fees_read, clock?.now)}.
        </Quiet>
        <chakra.div px="2" pt="2" display="flex" gap="2" flexWrap="wrap">
          <Button size="small" disabled={again.isPending} onClick={() => again.mutate(undefined)}>
            Read them again
          </Button>
          <Files site={site} />
        </chakra.div>
        <Trouble error={error ?? again.error} />
      </chakra.nav>
      <chakra.section aria-label="Fees" overflowY="auto" overflowX="hidden" minW="0" px="2" pt="1" mt="-1">
        {editing ? (
          <FeeEditor site={site} begin={editing} versions={versions} onClose={() => setEditing(null)} />
        ) : (
          data && <Versions site={site} versions={versions} onEdit={setEditing} />
        )}
      </chakra.section>
      <Trial key={category} site={site} category={category} versions={versions} />
    </chakra.div>
  );
}

type OfItsOwnProps = { site: Site; rows: FeeRow[]; onBegin: (f: Draft) => void };

/** OfItsOwn begins a schedule for a category that has none, from what it pays now. */
function OfItsOwn({ site, rows, onBegin }: OfItsOwnProps) {
  const { data: categories } = useCategories(site.id);
  const without = [{ ref: "", name: "Everything else", pays: "" }, ...(categories ?? [])].filter(
    (c) => !rows.some((f) => f.category === c.ref),
  );
  if (!categories || without.length === 0) return null;
  const begin = (ref: string) => {
    const own = without.find((c) => c.ref === ref);
    const now = rows.find((f) => f.category === own?.pays && f.holds)?.exact;
    const exact = { fees: now?.fees ?? [], warehouse: now?.warehouse, category: ref, starts_on: "" };
    onBegin({ name: own?.name ?? ref, exact });
  };
  return (
    <chakra.div px="2" pt="2">
      <Select aria-label="Fees of its own for a category" w="100%" value="-" onChange={(e) => begin(e.target.value)}>
        <option value="-">fees of its own for…</option>
        {without.map((c) => (
          <option key={c.ref} value={c.ref}>
            {c.name}
          </option>
        ))}
      </Select>
    </chakra.div>
  );
}

type VersionsProps = { site: Site; versions: FeeRow[]; onEdit: (f: FeeRow) => void };

/** Versions are a category's schedules side by side, oldest first; what a later one changes is marked. */
function Versions({ site, versions, onEdit }: VersionsProps) {
  const drop = useDeleteFees((f: FeeRow) => ({
    path: { id: site.id },
    body: { category: f.category, starts_on: f.starts_on },
  }));
  const newest = versions.at(-1);
  useKeys({ ".": () => newest && onEdit(newest) }, !!newest, [[".", "write a new version"]]);
  return (
    <>
      <chakra.div display="flex" gap="3" alignItems="center" mb="2">
        <chakra.h2 fontWeight="700" fontSize="15.5px" flex="1">
          {newest?.name}
        </chakra.h2>
        {newest && (
          <Button onClick={() => onEdit(newest)}>
            Write a new version <Key>.</Key>
          </Button>
        )}
      </chakra.div>
      <Trouble error={drop.error} />
      {versions.length === 0 && (
        <Empty title={`No fees are known for ${site.name}`}>
          Without them no price can be told. Read them again, take them from a file, or write them: choose Everything
          else at the left. Where there are truly none, keep a version without fees.
        </Empty>
      )}
      <chakra.div
        display="grid"
        gridTemplateColumns={`repeat(${Math.min(3, Math.max(1, versions.length))}, minmax(0, 1fr))`}
        gap="6"
      >
        {versions.slice(-3).map((f) => (
          <chakra.div key={f.starts_on} maxW={versions.length > 1 ? "520px" : "640px"}>
            <chakra.div
              display="flex"
              gap="2"
              alignItems="baseline"
              borderBottomWidth="1px"
              borderColor="ink"
              pb="1"
              mb="1"
            >
              <chakra.span fontWeight="600">
                {f.holds ? "since" : f.past ? "was, since" : "from"} {day(f.starts_on)}
              </chakra.span>
              {f.holds && <Word tone="good">holds today</Word>}
              {!f.holds && !f.past && <Word>to come</Word>}
              {f.by_hand && <Word>by hand</Word>}
            </chakra.div>
            {f.shown.map((fee) => (
              <FeeDrawn key={fee.name} fee={fee} />
            ))}
            {f.store && <WarehouseDrawn of={f.store} />}
            {f.by_hand && (
              <Button size="small" disabled={drop.isPending} onClick={() => drop.mutate(f)}>
                Drop this version
              </Button>
            )}
          </chakra.div>
        ))}
      </chakra.div>
    </>
  );
}

/** Files takes a site's schedules in and out as one file. */
function Files({ site }: { site: Site }) {
  const take = useUploadFees((body: string) => ({ path: { id: site.id }, body }));
  return (
    <>
      <a href={`/api/v1/sites/${site.id}/fees/export`} download>
        <Button as="span" size="small">
          Save as a file
        </Button>
      </a>
      <FileButton label="File of fee schedules" accept=".json,application/json" onText={(text) => take.mutate(text)}>
        Take from a file
      </FileButton>
      {take.isSuccess && <Quiet>{take.data.count} taken; prices are worked out anew.</Quiet>}
      <Trouble error={take.error} />
    </>
  );
}
