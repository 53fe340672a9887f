import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useBench, useCategories, useClock, useDo, useFees } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { at, time } from "../../parts/clock";
import { Button, Empty, FileButton, Input, Key, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { Fault, faults } from "../../parts/field";
import { useKeys } from "../../parts/keys";
import { Lines } from "../../parts/strip";
import { FeeDrawn, WarehouseDrawn } from "./bands";
import type { Ask } from "./bench";
import { FeeEditor } from "./feeeditor";
import { Stored } from "./figures";

type Site = Schemas["SiteView"];
export type FeeRow = Schemas["FeeRow"];
/** Draft is what a new version of a schedule begins from. */
export type Draft = Pick<FeeRow, "name" | "exact">;

export const day = (iso: string) => at(`${iso}T00:00:00Z`, { day: "numeric", month: "short", year: "numeric" });

/** Fees are what a site takes: a schedule for each category, its versions beside
 * each other, and a price to try on them. */
export function Fees({ site }: { site: Site }) {
  const a = useAddress();
  const { data, error } = useFees(site.id);
  const { data: clock } = useClock();
  const again = useDo(
    () => read(api.POST("/api/sites/{id}/fees/read", { params: { path: { id: site.id } } })),
    "sites",
    "listings",
  );
  const refs = [...new Set(data?.map((f) => f.category))];
  const category = refs.includes(a.get("category")) ? a.get("category") : (refs[0] ?? "");
  const versions = data?.filter((f) => f.category === category) ?? [];
  const [editing, setEditing] = useState<Draft | null>(null);
  const go = (by: number) => {
    const i = refs.indexOf(category) + by;
    if (i >= 0 && i < refs.length) a.put({ category: refs[i] || null });
  };
  useKeys({ ArrowDown: () => go(1), ArrowUp: () => go(-1) }, !editing);
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
          <FeeEditor site={site} begin={editing} onClose={() => setEditing(null)} />
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
  const without = [{ ref: "", name: "Everything else", parent: "" }, ...(categories ?? [])].filter(
    (c) => !rows.some((f) => f.category === c.ref),
  );
  if (!categories || without.length === 0) return null;
  const pays = (ref: string): FeeRow | undefined => {
    for (let at = ref, up = 0; up < 20; up++) {
      const f = rows.find((f) => f.category === at && f.holds);
      if (f || at === "") return f;
      at = categories.find((c) => c.ref === at)?.parent ?? "";
    }
  };
  const begin = (ref: string) => {
    const now = pays(ref);
    const exact = { fees: now?.exact.fees ?? [], warehouse: now?.exact.warehouse, category: ref, starts_on: "" };
    const name = without.find((c) => c.ref === ref)?.name ?? ref;
    onBegin({ name, exact });
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
  const drop = useDo(
    (f: FeeRow) =>
      read(
        api.POST("/api/sites/{id}/fees/drop", {
          params: { path: { id: site.id } },
          body: { category: f.category, starts_on: f.starts_on },
        }),
      ),
    "sites",
    "listings",
  );
  const newest = versions.at(-1);
  useKeys({ ".": () => newest && onEdit(newest) });
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
        {versions.slice(-3).map((f, i, shown) => (
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
            {f.exact.fees.map((fee) => (
              <FeeDrawn
                key={fee.name}
                fee={fee}
                changed={i > 0 && !shown[i - 1].exact.fees.some((x) => JSON.stringify(x) === JSON.stringify(fee))}
              />
            ))}
            {f.exact.warehouse && <WarehouseDrawn of={f.exact.warehouse} />}
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

/** Trial is a price in and its lines out, under each version that holds or will. */
function Trial({ site, category, versions }: { site: Site; category: string; versions: FeeRow[] }) {
  const [price, setPrice] = useState(() =>
    site.currency === "JPY" ? "4980" : site.currency === "NOK" ? "499.00" : "49.99",
  );
  const [stored, setStored] = useState<Pick<Ask, "warehouse" | "packed">>({});
  const live = versions.filter((f) => !f.past);
  const { data: first } = useBench(trial(site, category, live[0], price, stored));
  return (
    <chakra.section aria-label="Try a price" borderLeftWidth="1px" borderColor="hair" pl="5" overflowY="auto">
      <chakra.label display="flex" gap="2" alignItems="center" fontWeight="700">
        Try a price
        <Input figures w="104px" value={price} onChange={(e) => setPrice(e.target.value)} /> {site.currency}
      </chakra.label>
      <Quiet display="block" fontSize="12.5px" mb="2">
        costs left out, with delivery and tax as on {site.name}
      </Quiet>
      {first?.can_store && (
        <chakra.div mb="2">
          <Stored ask={stored} answer={first} set={(change) => setStored({ ...stored, ...change })} />
        </chakra.div>
      )}
      {live.map((f) => (
        <Tried
          key={f.starts_on}
          ask={trial(site, category, f, price, stored)}
          title={live.length > 1 ? (f.holds ? "today" : `from ${day(f.starts_on)}`) : undefined}
        />
      ))}
    </chakra.section>
  );
}

/** trial is a price asked of one version, with the costs left out. */
function trial(site: Site, category: string, version: FeeRow | undefined, price: string, stored: Partial<Ask>): Ask {
  return {
    site_id: site.id,
    category: category || undefined,
    day: version && !version.holds ? version.starts_on : undefined,
    lead: "price",
    value: price,
    cost: { unit: "0", handling: "0" },
    ...stored,
  };
}

function Tried({ ask, title }: { ask: Ask; title?: string }) {
  const { data, error } = useBench(ask);
  const wrong = faults(error);
  return (
    <chakra.div mb="4">
      {title && <Quiet>{title}</Quiet>}
      <Fault>{wrong.of("value")}</Fault>
      <Trouble error={wrong.rest} />
      {data && !error && data.why && <Fault>{data.why}</Fault>}
      {data && !error && !data.why && (
        <Lines lines={data.lines.filter((l) => l.kind !== "cost")} currency={data.currency} />
      )}
    </chakra.div>
  );
}

/** Files takes a site's schedules in and out as one file. */
function Files({ site }: { site: Site }) {
  const take = useDo(
    (text: string) =>
      read(
        api.POST("/api/sites/{id}/fees/file", {
          params: { path: { id: site.id } },
          body: text as never,
          bodySerializer: (b) => b as unknown as string,
          headers: { "Content-Type": "application/json" },
        }),
      ),
    "sites",
    "listings",
  );
  return (
    <>
      <a href={`/api/sites/${site.id}/fees/file`} download>
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
