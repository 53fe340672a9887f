import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, read, type Schemas } from "../../api/client";
import { useClock, useDo, useFees, useRates } from "../../api/queries";
import { at, time } from "../../parts/clock";
import { Button, Code, Input, Quiet, Trouble, Word } from "../../parts/controls";
import { money } from "../../parts/money";

type Site = Schemas["SiteView"];

/** Fees are what a site takes, what sending costs, and how currencies are changed. */
export function Fees({ site }: { site: Site | undefined }) {
  return (
    <chakra.div
      overflowY="auto"
      flex="1"
      pt="3"
      display="grid"
      gridTemplateColumns="minmax(0, 1fr) 400px"
      gap="8"
      alignContent="start"
    >
      {site ? <Table site={site} /> : <Connect />}
      <div>
        {site && <Terms key={site.id} site={site} />}
        <Rates to={site?.currency ?? "GBP"} />
        {site && <Connect />}
      </div>
    </chakra.div>
  );
}

const H = chakra("h2", { base: { fontWeight: "700", fontSize: "14.5px", mb: "1" } });

function Table({ site }: { site: Site }) {
  const { data, error } = useFees(site.id);
  const { data: clock } = useClock();
  const again = useDo(
    () => read(api.POST("/api/sites/{id}/fees/read", { params: { path: { id: site.id } } })),
    "sites",
  );
  return (
    <section aria-label="Fees">
      <chakra.div display="flex" alignItems="center" gap="3">
        <H>What {site.name} takes</H>
        <Quiet flex="1">
          read {time(site.fees_read, clock?.now)}; a category without fees of its own pays its parent's
        </Quiet>
        <Button size="small" disabled={again.isPending} onClick={() => again.mutate(undefined)}>
          Read them again
        </Button>
      </chakra.div>
      <Trouble error={error ?? again.error} />
      {data?.map((f) => (
        <chakra.div
          key={f.category + f.starts_on}
          display="grid"
          gridTemplateColumns="180px 150px 1fr"
          gap="3"
          py="2"
          borderTopWidth="1px"
          borderColor="hair"
        >
          <chakra.span fontWeight="600">{f.name}</chakra.span>
          <span>{f.holds ? <Quiet>since {day(f.starts_on)}</Quiet> : <Word>from {day(f.starts_on)}</Word>}</span>
          <div>
            {f.fees.map((w) => (
              <div key={w}>{w}</div>
            ))}
          </div>
        </chakra.div>
      ))}
    </section>
  );
}

const day = (iso: string) => at(`${iso}T00:00:00Z`, { day: "numeric", month: "short", year: "numeric" });

function Terms({ site }: { site: Site }) {
  const [v, setV] = useState({
    charged: money(site.charged, site.currency),
    outbound: money(site.outbound, site.currency),
  });
  const keep = useDo(
    (body: typeof v) => read(api.PUT("/api/sites/{id}/terms", { params: { path: { id: site.id } }, body })),
    "sites",
    "listings",
    "plan",
  );
  const wrong = keep.error instanceof Problem ? keep.error.fields : {};
  const field = (name: keyof typeof v, label: string) => (
    <chakra.label display="flex" gap="3" alignItems="center" py="1">
      <chakra.span flex="1">{label}</chakra.span>
      <Input
        figures
        w="90px"
        value={v[name]}
        aria-invalid={!!wrong[name]}
        onChange={(e) => setV({ ...v, [name]: e.target.value })}
      />{" "}
      {site.currency}
    </chakra.label>
  );
  return (
    <chakra.form
      aria-label="Delivery"
      mb="6"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(v);
      }}
    >
      <H>Delivery on {site.name}</H>
      {field("charged", "The buyer pays for it")}
      {field("outbound", "Sending one costs us")}
      <chakra.div display="flex" gap="3" alignItems="center">
        <Button type="submit" size="small" disabled={keep.isPending}>
          Keep
        </Button>
        {keep.isSuccess && <Quiet>Kept; prices are worked out anew.</Quiet>}
      </chakra.div>
      <Trouble error={keep.error} />
    </chakra.form>
  );
}

function Rates({ to }: { to: string }) {
  const { data } = useRates();
  const [v, setV] = useState({ from: "EUR", rate: "" });
  const keep = useDo(
    (body: { from: string; to: string; rate: string }) => read(api.PUT("/api/rates", { body })),
    "sites",
    "listings",
  );
  return (
    <chakra.form
      aria-label="Exchange rates"
      mb="6"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate({ ...v, to });
      }}
    >
      <H>Exchange rates</H>
      {data?.map((r) => (
        <chakra.div key={r.from + r.to} py="0.5" display="flex" gap="3">
          <Code color="ink">
            1 {r.from} = {r.rate} {r.to}
          </Code>
          <Quiet>of {day(r.day)}</Quiet>
        </chakra.div>
      ))}
      <chakra.div display="flex" gap="2" alignItems="center" pt="1">
        1{" "}
        <Input
          w="64px"
          aria-label="Currency"
          value={v.from}
          onChange={(e) => setV({ ...v, from: e.target.value.toUpperCase() })}
        />{" "}
        =
        <Input
          figures
          w="100px"
          aria-label="Rate"
          placeholder="0.8612"
          value={v.rate}
          onChange={(e) => setV({ ...v, rate: e.target.value })}
        />{" "}
        {to}
        <Button type="submit" size="small">
          Keep
        </Button>
      </chakra.div>
      <Trouble error={keep.error} />
    </chakra.form>
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
      <Trouble error={connect.error} />
    </chakra.form>
  );
}
