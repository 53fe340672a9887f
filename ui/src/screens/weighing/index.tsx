import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import {
  listCandidates,
  useDecideMatches,
  useMatchCandidates,
  useReadMarket,
  useReadMarketOfCandidates,
  useRejectCandidates,
  useRestoreCandidates,
  useShortlistCandidates,
  useWeighCandidates,
} from "../../api/operations";
import { useClock, useSites, useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Empty, Input, Key, Quiet, Select, Title, Trouble } from "../../parts/controls";
import { Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { plain } from "../../parts/money";
import { Tabs } from "../../parts/tabs";
import { toggled } from "../../parts/toggled";
import { time } from "../../parts/when";
import { ChooseColumns } from "./choose";
import { certain, chosen, columns, table } from "./columns";
import { PastedList } from "./list";
import { LookUps } from "./lookups";
import { One } from "./one";
import type { Candidate } from "./queries";
import { Shop } from "./shop";
import { SieveBar } from "./sieve";
import { written } from "./words";

type Site = Schemas["SiteView"];

/** Weigh is the list for finding what is worth selling, site by site. */
export function Weigh() {
  const a = useAddress();
  const { data: sites, error } = useSites();
  const at = Number(a.get("site")) || sites?.find((s) => s.lists)?.id || sites?.[0]?.id;
  const site = sites?.find((s) => s.id === at);
  const tab = a.get("tab");
  const here = (more: Record<string, string>) =>
    `?${new URLSearchParams({ ...(a.get("sieve") && { sieve: a.get("sieve") }), ...more })}`;
  return (
    <>
      <Title title="Weigh" more="What would it make, at what others ask today?" />
      <Trouble error={error} />
      {sites?.length === 0 && (
        <Empty title="There is nowhere to sell yet">
          Candidates are weighed against a place's prices and fees. Say where you sell on Places first.
        </Empty>
      )}
      {site && (
        <Tabs
          label="Weigh"
          tabs={[
            ...(sites ?? []).map((s) => ({
              to: here({ site: String(s.id) }),
              label: s.name,
              on: tab === "" && s.id === site.id,
            })),
            { to: here({ site: String(site.id), tab: "dropped" }), label: "Dropped", on: tab === "dropped" },
            { to: here({ site: String(site.id), tab: "look-ups" }), label: "Look-ups", on: tab === "look-ups" },
          ]}
        >
          {tab === "look-ups" ? (
            <LookUps />
          ) : (
            <Candidates key={site.id + tab} site={site} dropped={tab === "dropped"} />
          )}
        </Tabs>
      )}
    </>
  );
}

function Candidates({ site, dropped }: { site: Site; dropped: boolean }) {
  const a = useAddress();
  const { data: clock } = useClock();
  const sieve = a.get("sieve");
  const sort = a.sorting ?? { sort: "profit_lowest", desc: true };
  const query = { sieve: sieve || undefined, dropped: dropped || undefined, ...sort };
  const list = useParts(listCandidates, { path: { id: site.id }, query: { ...query } });
  const [ticked, setTicked] = useState<Set<number>>(new Set());
  const [listed, setListed] = useState(0); // just now
  const rows = list.rows.filter((r) => ticked.has(r.id));
  const oldest = list.rows.reduce<string | null>((o, r) => (o === null || r.weighed_at < o ? r.weighed_at : o), null);
  const params = new URLSearchParams({ sort: sort.sort, desc: String(sort.desc), ...(sieve && { sieve }) });
  if (dropped) params.set("dropped", "true");
  return (
    <>
      <SieveBar
        text={sieve}
        sort={sort}
        currency={site.currency}
        count={list.error ? undefined : list.total}
        wrong={list.error}
        columns={a.get("cols")}
        onChange={(text, named) =>
          a.put({
            sieve: text || null,
            open: null,
            ...(named?.sort && { sort: named.sort, desc: named.down ? "1" : null }),
            ...(named && { cols: named.columns?.join(",") || null }),
          })
        }
      />
      <chakra.div display="flex" gap="2" alignItems="center" pb="1" minH="36px">
        {rows.length > 0 ? (
          <Onward site={site} rows={rows} dropped={dropped} onDone={() => setTicked(new Set())} onListed={setListed} />
        ) : (
          <>
            <ToWeigh
              site={site}
              onSupplier={(name) => a.put({ sieve: written([[{ column: "supplier", op: "is", values: [name] }]]) })}
            />
            <Quiet>{oldest && `weighed ${time(oldest, clock?.now)}, amounts in ${site.currency}`}</Quiet>
            {listed > 0 && (
              <chakra.span role="status">
                {listed} listed;{" "}
                <Link to="/send">
                  <chakra.span color="accent" textDecoration="underline">
                    look at what is ready to send
                  </chakra.span>
                </Link>
              </chakra.span>
            )}
            <chakra.span flex="1" />
            <Quiet>Space selects</Quiet>
            <ChooseColumns text={a.get("cols")} onChange={(cols) => a.put({ cols: cols || null })} />
            {list.rows.length > 0 && (
              <chakra.a
                href={`/api/v1/sites/${site.id}/candidates/export.csv?${params}`}
                download
                color="accent"
                textDecoration="underline"
              >
                Download as CSV
              </chakra.a>
            )}
            {list.rows.length > 0 && (
              <chakra.a
                href={`/api/v1/sites/${site.id}/candidates/export.xlsx?${params}`}
                download
                color="accent"
                textDecoration="underline"
              >
                as XLSX
              </chakra.a>
            )}
          </>
        )}
      </chakra.div>
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="Candidates"
          list={list}
          open={a.open}
          onOpen={(r) => a.put({ open: String(r.id), seller: null })}
          selected={ticked}
          onSelect={(r) => setTicked(toggled(ticked, r.id))}
          sorting={sort}
          onSort={a.setSorting}
          empty={
            dropped || sieve ? (
              <Empty title={sieve ? "Nothing goes through" : "Nothing was dropped"}>
                {sieve ? "Take a condition away to see more." : "Candidates that you drop stand here with the reason."}
              </Empty>
            ) : (
              <Empty title="Nothing has been weighed here yet">
                Weigh what was looked up, your kept finds, or all that a supplier has: choose above. Nothing is listed
                by that.
              </Empty>
            )
          }
          columns={
            dropped && !a.open
              ? [
                  ...columns(site.currency),
                  { key: "reason", head: "Dropped for", width: "240px", cell: (c) => <Quiet>{c.reason}</Quiet> },
                ]
              : a.open
                ? columns(site.currency)
                : columns(site.currency, chosen(a.get("cols")))
          }
        />
        {a.open && a.get("seller") && (
          <Shop site={site} seller={a.get("seller")} onClose={() => a.put({ seller: null })} />
        )}
        {a.open && !a.get("seller") && (
          <One
            key={a.open}
            id={a.open}
            site={site}
            onClose={() => a.setOpen(null)}
            onOpen={a.setOpen}
            onSeller={(seller) => a.put({ seller })}
          />
        )}
      </chakra.div>
    </>
  );
}

/** ToWeigh begins the runs: what is weighed, and what others ask. */
function ToWeigh({ site, onSupplier }: { site: Site; onSupplier: (name: string) => void }) {
  const { data: sources } = useSources();
  const [what, setWhat] = useState("all");
  const weigh = useWeighCandidates(() => ({
    path: { id: site.id },
    body:
      what === "all" || what === "kept" || what === "catalogue"
        ? { what: what as "all" | "kept" | "catalogue" }
        : { what: "source" as const, source_id: Number(what) },
  }));
  const market = useReadMarket(() => ({ path: { id: site.id } }));
  return (
    <>
      <Select aria-label="What to weigh" w="206px" value={what} onChange={(e) => setWhat(e.target.value)}>
        <option value="all">all that was looked up</option>
        <option value="kept">kept finds</option>
        <option value="catalogue">what suppliers have of its catalogue</option>
        <option value="list">a list of numbers with costs…</option>
        {sources?.map((s) => (
          <option key={s.id} value={s.id}>
            all of {s.name}
          </option>
        ))}
      </Select>
      {what !== "list" && (
        <Button size="small" onClick={() => weigh.mutate(undefined)} disabled={weigh.isPending}>
          Weigh
        </Button>
      )}
      <Button
        size="small"
        onClick={() => market.mutate(undefined)}
        disabled={market.isPending}
        title="Reads what others ask on the candidates' entries where it is older than six hours, the dearest goods first"
      >
        Read the market
      </Button>
      <Trouble error={weigh.error ?? market.error} />
      {what === "list" && <PastedList site={site} onTaken={onSupplier} onDone={() => setWhat("all")} />}
    </>
  );
}

type OnwardProps = {
  site: Site;
  rows: Candidate[];
  dropped: boolean;
  onDone: () => void;
  onListed: (n: number) => void;
};

/** Onward is what can be done with those that are ticked. */
function Onward({ site, rows, dropped, onDone, onListed }: OnwardProps) {
  const [reason, setReason] = useState<string>();
  const [said, setSaid] = useState("");
  const [everywhere, setEverywhere] = useState(false);
  const items = rows.map((r) => r.supplier_product_id);
  const sure = rows.filter(certain);
  const unsure = rows.filter((r) => r.state === "weighed" && !certain(r));
  const list = useDecideMatches(() => ({
    body: {
      choices: sure.slice(0, 500).map((r) => ({
        id: r.match_id,
        entry: r.entry,
        units_bought: r.units_bought,
        units_listed: r.units_listed,
        everywhere,
      })),
    },
  }));
  const keep = useShortlistCandidates(() => ({ body: { supplier_products: items } }));
  const drop = useRejectCandidates((why: string) => ({ body: { supplier_products: items, reason: why } }));
  const market = useReadMarketOfCandidates(() => ({ path: { id: site.id }, body: { supplier_products: items } }));
  const back = useRestoreCandidates(() => ({ body: { supplier_products: items } }));
  const ask = useMatchCandidates(() => ({
    path: { id: site.id },
    body: { supplier_products: unsure.map((r) => r.supplier_product_id) },
  }));
  const done = { onSuccess: onDone };
  const goList = () =>
    sure.length > 0 &&
    !list.isPending &&
    list.mutate(undefined, {
      onSuccess: (d) => {
        onListed(d.done);
        if (d.failed.length === 0) onDone();
        else setSaid(`${d.failed.length} couldn't be: ${d.failed[0].why}`);
      },
    });
  const copy = () =>
    navigator.clipboard.writeText(table(rows, site.currency, plain)).then(
      () => setSaid(`${rows.length} copied as a table`),
      () => setSaid("The browser doesn't let this page copy; download the list instead."),
    );
  useKeys(
    {
      l: goList,
      L: goList,
      k: () => keep.mutate(undefined, done),
      K: () => keep.mutate(undefined, done),
      x: () => (dropped ? back.mutate(undefined, done) : setReason("")),
      X: () => (dropped ? back.mutate(undefined, done) : setReason("")),
      e: () => setEverywhere(!everywhere),
      E: () => setEverywhere(!everywhere),
      r: () => market.mutate(undefined),
      R: () => market.mutate(undefined),
      c: copy,
      C: copy,
    },
    reason === undefined,
    [
      ["L", "list what is ticked and certain"],
      ["K", "keep what is ticked"],
      ["X", dropped ? "bring back what is ticked" : "drop what is ticked"],
      ["E", "list them on the place's other sites too"],
      ["R", "read what others ask on what is ticked"],
      ["C", "copy what is ticked as a table"],
    ],
  );
  if (reason !== undefined)
    return (
      <chakra.form
        display="flex"
        gap="2"
        alignItems="center"
        onSubmit={(e) => {
          e.preventDefault();
          drop.mutate(reason, done);
        }}
        onKeyDown={(e) => {
          if (e.key === "Escape") {
            e.stopPropagation();
            setReason(undefined);
          }
        }}
      >
        <Input
          aria-label="Why it is dropped"
          placeholder="why, for when you meet it again"
          autoFocus
          w="280px"
          h="28px"
          maxLength={200}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        <Button size="small" type="submit" disabled={drop.isPending}>
          Drop {rows.length}
        </Button>
        <Button look="plain" size="small" onClick={() => setReason(undefined)}>
          Leave it
        </Button>
        <Trouble error={drop.error} />
      </chakra.form>
    );
  return (
    <>
      {!dropped && (
        <Button
          look="main"
          size="small"
          onClick={goList}
          disabled={sure.length === 0 || list.isPending}
          title={sure.length < rows.length ? "Only what is certainly the same thing is listed from here" : undefined}
        >
          List {sure.length} on {site.name} <Key>L</Key>
        </Button>
      )}
      {!dropped && (
        <chakra.label display="flex" gap="1.5" alignItems="center" whiteSpace="nowrap">
          <input type="checkbox" checked={everywhere} onChange={(e) => setEverywhere(e.target.checked)} />
          and on {site.marketplace}'s other sites <Key>E</Key>
        </chakra.label>
      )}
      <Button size="small" onClick={() => keep.mutate(undefined, done)} disabled={keep.isPending}>
        Keep {rows.length} <Key>K</Key>
      </Button>
      {dropped ? (
        <Button size="small" onClick={() => back.mutate(undefined, done)} disabled={back.isPending}>
          Bring back {rows.length} <Key>X</Key>
        </Button>
      ) : (
        <Button size="small" onClick={() => setReason("")}>
          Drop {rows.length} <Key>X</Key>
        </Button>
      )}
      <Button size="small" onClick={() => market.mutate(undefined)} disabled={market.isPending || rows.length > 200}>
        {market.isPending ? "Reading…" : "Read their market"} <Key>R</Key>
      </Button>
      <Button size="small" onClick={copy}>
        Copy as a table <Key>C</Key>
      </Button>
      {!dropped && unsure.length > 0 && (
        <Button size="small" onClick={() => ask.mutate(undefined, done)} disabled={ask.isPending}>
          Put {unsure.length} on Match's desk
        </Button>
      )}
      <span role="status">{said}</span>
      <Trouble error={list.error ?? keep.error ?? ask.error ?? market.error ?? back.error} />
    </>
  );
}
