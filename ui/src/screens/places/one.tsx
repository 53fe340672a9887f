import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useSetSiteFileColumns, useTakeOverListings, useTakeSiteFile, useUploadSiteFile } from "../../api/operations";
import { Button, Code, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { Drop } from "../../parts/drop";
import { Particulars } from "./particulars";
import type { Place, PlaceFile } from "./queries";
import { OwnShop } from "./shop";

const kinds = [
  {
    kind: "catalogue",
    title: "Its catalogue",
    more: "The file of what can be sold there: entry, title, number. It is matched like any other.",
  },
  {
    kind: "listings",
    title: "What we have listed there",
    more: "Its listing or inventory report: SKU, price, quantity. Each is tied to a supplier where that is sure.",
  },
] as const;

/** One is one place: what is missing, what it can do, and its files. */
export function One({ place: p, onLists }: { place: Place; onLists: () => void }) {
  const [changing, setChanging] = useState(false);
  const pull = useTakeOverListings(() => ({ path: { id: p.id } }));
  return (
    <chakra.div pt="2">
      <chakra.h2 fontSize="15.5px" fontWeight="700" pr="12">
        {p.name}
      </chakra.h2>
      <Quiet>
        {p.place}, {p.code}, {p.currency}
        {p.can.length > 0 && `; it can ${p.can.join(", ")}`}
      </Quiet>
      {p.missing.length > 0 && (
        <chakra.ul aria-label="What is missing" listStyleType="none" py="2">
          {p.missing.map((m) => (
            <chakra.li key={m.words} display="flex" gap="2" alignItems="center" py="0.5">
              <Word tone="bad">missing</Word>
              {m.link ? (
                <Link to={m.link}>
                  <chakra.span textDecoration="underline">{m.words}</chakra.span>
                </Link>
              ) : (
                m.words
              )}
            </chakra.li>
          ))}
        </chakra.ul>
      )}
      {changing && <Particulars id={p.id} onDone={() => setChanging(false)} />}
      <chakra.div display="flex" gap="2" py="2" flexWrap="wrap">
        {!changing && <Button onClick={() => setChanging(true)}>Change name, currency, tax</Button>}
        <Link to={`/price?tab=terms&site=${p.id}`}>
          <Button as="span">Delivery and postage</Button>
        </Link>
        {p.kind === "catalogue" && <Button onClick={onLists}>{p.lists ? "No longer list here" : "List here"}</Button>}
        {p.gateway && p.kind !== "shop" && (
          <Button onClick={() => pull.mutate(undefined)} disabled={pull.isPending}>
            Take over what is listed
          </Button>
        )}
        {p.untied > 0 && (
          <Link to="/send?tab=untied">
            <Button as="span">Look at {p.untied} untied</Button>
          </Link>
        )}
      </chakra.div>
      <Trouble error={pull.error} />
      {p.kind === "shop" && <OwnShop site={p.id} />}
      {p.kind === "by hand" && (
        <Quiet display="block" pb="2">
          It is served by hand: write down what it asks for under Prepare, list there, and what you send waits under
          Send, By hand.
        </Quiet>
      )}
      {!p.gateway && p.kind !== "by hand" && (
        <Quiet display="block" pb="2">
          It has no gateway: what you send becomes a file of prices and stock under Send, which you upload there. Bring
          its listing report in again now and then.
        </Quiet>
      )}
      {!p.gateway && p.kind !== "by hand" && kinds.map((k) => <FileOf key={k.kind} place={p} {...k} />)}
    </chakra.div>
  );
}

/** FileOf takes one kind of a place's files: dropped or chosen, its columns looked at, then read. */
function FileOf({ place: p, kind, title, more }: { place: Place; kind: string; title: string; more: string }) {
  const bring = useUploadSiteFile((x: File) => ({ path: { id: p.id }, query: { name: x.name, kind }, body: x }));
  const newest = p.files.find((f) => f.kind === kind);
  return (
    <Drop title={title} more={more} busy={bring.isPending} error={bring.error} onFile={(x) => bring.mutate(x)}>
      {newest && <Newest key={newest.id} file={newest} />}
    </Drop>
  );
}

function Newest({ file: f }: { file: PlaceFile }) {
  const choose = useSetSiteFileColumns((columns: Record<string, string>) => ({
    path: { id: f.id },
    body: { columns },
  }));
  const take = useTakeSiteFile(() => ({ path: { id: f.id } }));
  if (f.state !== "looked")
    return (
      <chakra.div pt="1.5">
        {f.state === "failed" ? (
          <Trouble error={new Error(f.error)} />
        ) : (
          <>
            <chakra.span fontWeight="600">{f.name}</chakra.span>{" "}
            <Quiet>
              {f.rows} rows: {f.new} {f.kind === "listings" ? "taken over" : "new"}, {f.changed} changed, {f.same} the
              same
              {f.aside > 0 && `, ${f.aside} couldn't be read`}
              {f.untied > 0 && `, ${f.untied} tied to nothing`}
            </Quiet>
          </>
        )}
      </chakra.div>
    );
  const now = Object.fromEntries(f.columns.map((c) => [c.name, c.as]));
  return (
    <chakra.div pt="2">
      <chakra.div display="flex" gap="2" alignItems="center" pb="1">
        <chakra.strong flex="1" truncate>
          {f.name}
        </chakra.strong>
        <Code>{f.rows} rows</Code>
      </chakra.div>
      <chakra.table w="100%" fontSize="12.5px" css={{ tableLayout: "fixed" }}>
        <tbody>
          {f.columns.map((c) => (
            <tr key={c.name}>
              <chakra.td py="0.5" pr="2" fontWeight="600" truncate title={c.name}>
                {c.name}
              </chakra.td>
              <chakra.td py="0.5" pr="2" color="quiet" truncate>
                {c.samples[0]}
              </chakra.td>
              <chakra.td py="0.5">
                <Select
                  h="26px"
                  aria-label={`${c.name} is`}
                  value={c.as}
                  onChange={(e) => choose.mutate({ ...now, [c.name]: e.target.value })}
                >
                  <option value="">not read</option>
                  {f.choices.map((x) => (
                    <option key={x} value={x}>
                      {x}
                    </option>
                  ))}
                </Select>
              </chakra.td>
            </tr>
          ))}
        </tbody>
      </chakra.table>
      <Trouble error={choose.error ?? take.error} />
      <Button
        look="main"
        mt="2"
        onClick={() => take.mutate(undefined)}
        disabled={f.missing.length > 0 || take.isPending}
      >
        {f.missing.length > 0 ? `Choose which column is the ${f.missing.join(" and the ")}` : `Read ${f.rows} rows`}
      </Button>
    </chakra.div>
  );
}
