import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, read, type Schemas } from "../../api/client";
import { useDo, useRates, useSites } from "../../api/queries";
import { Button, Code, FileButton, Input, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { Fault, Field, faults } from "../../parts/field";
import { money } from "../../parts/money";
import { day } from "./fees";

type Site = Schemas["SiteView"];
type Body = Schemas["SiteTerms"];

const H = chakra("h2", { base: { fontWeight: "700", fontSize: "14.5px", mb: "1" } });

/** Terms are what holds for all that is sold on a site, how currencies are
 * changed, and where we sell. */
export function Terms({ site }: { site: Site | undefined }) {
  return (
    <chakra.div
      overflowY="auto"
      flex="1"
      pt="3"
      display="grid"
      gridTemplateColumns="repeat(2, minmax(0, 1fr))"
      gap="10"
      alignContent="start"
      maxW="1080px"
    >
      <div>
        {site && <Delivery key={site.id} site={site} />}
        <Rates to={site?.currency ?? "GBP"} />
      </div>
      <div>
        <Places />
        <Connect />
      </div>
    </chakra.div>
  );
}

type Allowance = NonNullable<Body["allowances"]>[number];

function Delivery({ site }: { site: Site }) {
  const [v, setV] = useState<Body>(() => ({
    charged: money(site.charged, site.currency),
    outbound: money(site.outbound, site.currency),
    handling: money(site.handling, site.currency),
    cushion: site.cushion,
    allowances: site.allowances,
  }));
  const keep = useDo(
    (body: Body) => read(api.PUT("/api/sites/{id}/terms", { params: { path: { id: site.id } }, body })),
    "sites",
    "listings",
    "plan",
  );
  const wrong = faults(keep.error);
  const set = (change: Partial<Body>) => {
    keep.reset();
    setV({ ...v, ...change });
  };
  const put = (i: number, change: Partial<Allowance>) =>
    set({ allowances: v.allowances?.map((a, k) => (k === i ? { ...a, ...change } : a)) });
  const field = (name: "charged" | "outbound" | "handling", label: string) => (
    <Field
      label={label}
      unit={site.currency}
      value={v[name] ?? ""}
      fault={wrong.of(name)}
      set={(x) => set({ [name]: x })}
    />
  );
  return (
    <chakra.form
      aria-label="Delivery"
      mb="7"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(v);
      }}
    >
      <H>What holds for all on {site.name}</H>
      {field("charged", "The buyer pays for delivery")}
      {field("outbound", "Sending one costs us")}
      {field("handling", "Our own work for each")}
      <Field
        label="Cushion on costs in another currency"
        value={v.cushion ?? ""}
        fault={wrong.of("cushion")}
        set={(x) => set({ cushion: x })}
      />
      {v.allowances?.map((a, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: its name is being typed
        <chakra.div key={i} display="flex" gap="2" alignItems="center" py="0.5">
          put by for
          <Input
            flex="1"
            minW="0"
            h="28px"
            aria-label={`Put by for ${i + 1}`}
            value={a.name}
            onChange={(e) => put(i, { name: e.target.value })}
          />
          <Input
            figures
            w="70px"
            h="28px"
            aria-label={`Share put by ${i + 1}`}
            value={a.rate}
            onChange={(e) => put(i, { rate: e.target.value })}
          />
          <Select
            aria-label={`Of what ${i + 1}`}
            value={a.of}
            onChange={(e) => put(i, { of: e.target.value as Allowance["of"] })}
          >
            <option value="item">of the item price</option>
            <option value="total">of item and delivery</option>
            <option value="total+tax">of all, tax too</option>
          </Select>
          <Button
            type="button"
            size="small"
            look="plain"
            aria-label={`Nothing put by for ${a.name}`}
            onClick={() => set({ allowances: v.allowances?.filter((_, k) => k !== i) })}
          >
            ×
          </Button>
        </chakra.div>
      ))}
      <Fault>{wrong.of("allowances")}</Fault>
      <chakra.div display="flex" gap="3" alignItems="center" pt="2">
        <Button type="submit" size="small" disabled={keep.isPending}>
          Keep
        </Button>
        <Button
          type="button"
          size="small"
          onClick={() => set({ allowances: [...(v.allowances ?? []), { name: "returns", of: "item", rate: "2%" }] })}
        >
          Put something by
        </Button>
        {keep.isSuccess && <Quiet>Kept; prices are worked out anew.</Quiet>}
      </chakra.div>
      <Trouble error={wrong.rest} />
    </chakra.form>
  );
}

function Rates({ to }: { to: string }) {
  const { data } = useRates();
  const [v, setV] = useState({ from: "EUR", rate: "" });
  const [address, setAddress] = useState<string | null>(null);
  const keep = useDo(
    (body: { from: string; to: string; rate: string }) => read(api.PUT("/api/rates", { body })),
    "sites",
    "listings",
  );
  const fetched = useDo(
    (address: string) => read(api.POST("/api/rates/fetch", { body: { address } })),
    "sites",
    "listings",
  );
  const taken = useDo(
    (text: string) =>
      read(
        fetch("/api/rates/file", { method: "POST", body: text, headers: { "Content-Type": "text/csv" } }).then(
          async (response) => {
            const body = await response.json().catch(() => null);
            return response.ok ? { data: body as { count: number }, response } : { error: body, response };
          },
        ),
      ),
    "sites",
    "listings",
  );
  const wrong = faults(keep.error);
  return (
    <chakra.form
      aria-label="Exchange rates"
      mb="6"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate({ ...v, to });
      }}
    >
      <H>Exchange rates into {to}</H>
      {data?.rates
        .filter((r) => r.to === to)
        .map((r) => (
          <chakra.div key={r.from} py="0.5" display="grid" gridTemplateColumns="210px 1fr" gap="3">
            <Code color="ink">
              1 {r.from} = {r.rate} {r.to}
            </Code>
            {r.stale ? (
              <chakra.span color="loss">{r.stale}</chakra.span>
            ) : (
              <Quiet>
                of {day(r.day)}, {r.way || "typed"}
              </Quiet>
            )}
          </chakra.div>
        ))}
      <chakra.div display="flex" gap="2" alignItems="center" pt="1">
        1
        <Input
          w="64px"
          h="28px"
          aria-label="Currency"
          value={v.from}
          onChange={(e) => setV({ ...v, from: e.target.value.toUpperCase() })}
        />
        =
        <Input
          figures
          w="104px"
          h="28px"
          aria-label="Rate"
          placeholder="0.8612"
          value={v.rate}
          onChange={(e) => setV({ ...v, rate: e.target.value })}
        />
        {to}
        <Button type="submit" size="small">
          Keep
        </Button>
      </chakra.div>
      <Fault>{wrong.of("from", "rate", "to")}</Fault>
      <Trouble error={wrong.rest} />
      <chakra.div display="flex" gap="2" alignItems="center" pt="3">
        <Input
          flex="1"
          minW="0"
          h="28px"
          aria-label="Address of exchange rates"
          placeholder="https://… to fetch them from, every day"
          value={address ?? data?.address ?? ""}
          onChange={(e) => setAddress(e.target.value)}
        />
        <Button
          type="button"
          size="small"
          disabled={fetched.isPending}
          onClick={() => fetched.mutate(address ?? data?.address ?? "")}
        >
          Fetch now
        </Button>
        <FileButton
          label="File of exchange rates"
          accept=".csv,text/csv"
          title="CSV with the columns from, to, rate and day"
          onText={(text) => taken.mutate(text)}
        >
          From a file
        </FileButton>
      </chakra.div>
      {fetched.isSuccess && <Quiet>{fetched.data.count} rates fetched.</Quiet>}
      {taken.isSuccess && <Quiet>{taken.data.count} rates taken.</Quiet>}
      <Trouble error={fetched.error ?? taken.error} />
    </chakra.form>
  );
}

/** Places are all sites we know, and on which of them we list. */
function Places() {
  const { data: sites } = useSites();
  const lists = useDo(
    (x: { id: number; lists: boolean }) =>
      read(api.PUT("/api/sites/{id}/lists", { params: { path: { id: x.id } }, body: { lists: x.lists } })),
    "sites",
    "matches",
    "listings",
  );
  return (
    <chakra.section aria-label="Places to sell" mb="7">
      <H>Places to sell</H>
      <Quiet>Where we list, what suppliers have is looked up; the others are there to compare on the bench.</Quiet>
      {sites?.map((s) => (
        <chakra.label
          key={s.id}
          display="grid"
          gridTemplateColumns="20px 1fr 60px 120px"
          gap="2"
          alignItems="center"
          py="0.5"
        >
          <input
            type="checkbox"
            checked={s.lists}
            disabled={lists.isPending || (s.kind !== "catalogue" && !s.lists)}
            aria-label={`List on ${s.name}`}
            onChange={(e) => lists.mutate({ id: s.id, lists: e.target.checked })}
          />
          <span>{s.name}</span>
          <Code>{s.currency}</Code>
          <span>
            <Word>{s.kind}</Word>
          </span>
        </chakra.label>
      ))}
      <Trouble error={lists.error} />
    </chakra.section>
  );
}

function Connect() {
  const [v, setV] = useState({ name: "", address: "" });
  const connect = useDo((body: typeof v) => read(api.POST("/api/marketplaces", { body })), "sites");
  return (
    <chakra.form
      aria-label="Connect a marketplace"
      onSubmit={(e) => {
        e.preventDefault();
        connect.mutate(v);
      }}
    >
      <H>Connect a marketplace</H>
      <Quiet>By the address of its gateway; its sites, categories and fees come with it.</Quiet>
      <chakra.div display="flex" gap="2" pt="1">
        <Input
          w="120px"
          aria-label="Name"
          placeholder="Name"
          value={v.name}
          onChange={(e) => setV({ ...v, name: e.target.value })}
        />
        <Input
          flex="1"
          aria-label="Address of the gateway"
          placeholder="https://…"
          value={v.address}
          onChange={(e) => setV({ ...v, address: e.target.value })}
        />
        <Button type="submit" size="small" h="32px" disabled={connect.isPending}>
          Connect
        </Button>
      </chakra.div>
      <Trouble error={connect.error instanceof Problem ? connect.error : null} />
    </chakra.form>
  );
}
