import { chakra } from "@chakra-ui/react";
import { lazy, Suspense, useState } from "react";
import { useNavigate, useParams } from "react-router";
import {
  checkPreparation,
  listPreparations,
  useSetSku,
  useSubmitContent,
  useUnlistPreparations,
  useUpdatePreparation,
} from "../../api/operations";
import { useAnswer, useDo } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Key, Quiet, Select, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { tone } from "../../parts/listings";
import { Money } from "../../parts/money";
import { Thumb } from "../../parts/picture";
import { BrandAsk } from "./brandask";
import { Buyer } from "./buyer";
import { Category } from "./category";
import { focusLacking } from "./focus";
import { Line } from "./line";
import { type Prepared, type Say, several, usePrepared } from "./queries";
import { sections } from "./sections";
import { Shown } from "./shown";
import { TitleBar } from "./titlebar";
import { VariantGrid } from "./variants";
import { nameOf } from "./words";

/** Editor is one listing of our own with all its category asks for. */
export function Editor() {
  const { id } = useParams();
  const listing = usePrepared(Number(id));
  if (listing.error) return <Trouble error={listing.error} retry={() => listing.refetch()} />;
  return listing.data ? <Open key={listing.data.id} kept={listing.data} /> : null;
}

/** useDrafts is what is being typed, and what the listing would be with it. */
function useDrafts(kept: Prepared) {
  const [drafts, setDrafts] = useState<Record<string, string>>({});
  const said = Object.entries(drafts).filter(([f]) => f !== "sku"); // a SKU isn't said of it: it is its own
  const say: Say[] = said.map(([field, value]) => ({ field, values: several(field, value) }));
  const typing = say.length > 0;
  const tried = useAnswer(
    ["prepared", kept.id, kept.version, drafts],
    (signal) => checkPreparation({ path: { id: kept.id }, body: { say } }, signal),
    typing,
  );
  const write = useUpdatePreparation((say: Say[]) => ({ path: { id: kept.id }, body: { say } }));
  const rename = useSetSku((sku: string) => ({ path: { id: kept.id }, body: { sku } }));
  const drop = (field: string) =>
    setDrafts((old) => Object.fromEntries(Object.entries(old).filter(([f]) => f !== field)));
  return {
    drafts,
    shown: (typing && tried.data) || kept,
    error: tried.error ?? write.error ?? rename.error,
    learnt: write.data?.learnt ?? [],
    type: (field: string, value: string) => setDrafts((old) => ({ ...old, [field]: value })),
    drop,
    keep: (field: string, value: string) =>
      (field === "sku"
        ? rename.mutateAsync(value)
        : write.mutateAsync([{ field, values: several(field, value) }])
      ).then(
        () => drop(field),
        () => undefined, // it is said above, and what was typed stays
      ),
  };
}

const Pictures = lazy(() => import("./pictures").then((m) => ({ default: m.Pictures })));

function Open({ kept }: { kept: Prepared }) {
  const go = useNavigate();
  const d = useDrafts(kept);
  const l = d.shown;
  const next = useDo(async () => {
    const list = await listPreparations({ query: { limit: 2 } });
    return list.rows.find((r) => r.id !== kept.id)?.id;
  });
  const a = useAddress();
  const view = a.get("as");
  const turn = (to: string) => a.put({ as: view === to ? null : to });
  const toNext = () => next.mutate(undefined, { onSuccess: (id) => go(id ? `/prepare/${id}` : "/prepare") });
  useKeys(
    {
      b: () => turn("buyer"),
      p: () => turn("pictures"),
      v: () => turn("variants"),
      ".": toNext,
      Escape: () => (view ? a.put({ as: null }) : go("/prepare")),
      e: () => (view ? a.put({ as: null }) : focusLacking()),
    },
    true,
    [
      [".", "next incomplete"],
      ["e", "first field that lacks something"],
      ["p", "its pictures, and back"],
      ["v", "its variants, and back"],
      ["b", "the buyer's view, and back"],
      ["Esc", "back"],
    ],
  );
  const shown = l.fields.filter((f) => f.field !== "title");
  return (
    <>
      <Title
        title={
          <chakra.span display="flex" gap="3" alignItems="center">
            <Thumb digest={l.pictures[0]?.digest ?? ""} size={36} />
            <chakra.span truncate maxW={l.group ? "290px" : "400px"}>
              {l.product}
            </chakra.span>
          </chakra.span>
        }
        more={
          <>
            {l.site} <Word tone={tone(l.state)}>{l.state}</Word>{" "}
            {l.price != null ? (
              <Money minor={l.price} currency={l.currency} unit fontWeight="600" />
            ) : (
              <span>no price: {l.why}</span>
            )}
          </>
        }
      >
        <Progress l={l} />
        <Button aria-pressed={view === "pictures"} onClick={() => turn("pictures")}>
          Pictures <Key>p</Key>
        </Button>
        {l.group && (
          <Button aria-pressed={view === "variants"} onClick={() => turn("variants")}>
            Variants <Key>v</Key>
          </Button>
        )}
        <Button aria-pressed={view === "buyer"} onClick={() => turn("buyer")}>
          Buyer's view <Key>b</Key>
        </Button>
        <Button look="main" disabled={next.isPending} onClick={toNext}>
          Next incomplete <Key>.</Key>
        </Button>
      </Title>
      <Trouble error={d.error} />
      {d.learnt.length > 0 && (
        <chakra.div role="status" py="1">
          Learnt: {d.learnt.join("; ")}.
        </chakra.div>
      )}
      <chakra.div display="flex" gap="6" flex="1" minH="0">
        <chakra.div flex="1" minW="0" overflowY="auto" pr="2">
          {view === "buyer" ? (
            <Buyer l={l} />
          ) : view === "variants" ? (
            <VariantGrid l={kept} />
          ) : view === "pictures" ? (
            <Suspense>
              <Pictures l={kept} />
            </Suspense>
          ) : (
            <>
              <TitleBar l={l} draft={d.drafts.title} onType={d.type} onKeep={d.keep} onDrop={d.drop} />
              {sections(shown).map((s) => (
                <chakra.section key={s.name} aria-label={s.name} mt="4">
                  <chakra.h2 display="flex" gap="2" fontWeight="700" borderBottomWidth="1px" borderColor="hair">
                    {s.name}
                    {s.needed > 0 && (
                      <Code color={s.done < s.needed ? "loss" : "quiet"}>
                        {s.done}/{s.needed}
                      </Code>
                    )}
                  </chakra.h2>
                  <div role="list" aria-label={`${s.name}, line by line`}>
                    {s.fields.map((f) => (
                      <Line
                        key={f.field}
                        field={f}
                        kept={kept.fields.find((x) => x.field === f.field)?.value ?? ""}
                        draft={d.drafts[f.field]}
                        onType={(v) => d.type(f.field, v)}
                        onDrop={() => d.drop(f.field)}
                        onKeep={(v) => d.keep(f.field, v)}
                        proposed={f.field === "words" ? l.proposed : undefined}
                        proposals={l.proposals.filter((p) => p.field === f.field)}
                        texts={l.texts}
                        tags={l.tags}
                        besides={
                          f.field === "brand" && f.code === "not on the register" && <BrandAsk l={l} brand={f.value} />
                        }
                      />
                    ))}
                  </div>
                </chakra.section>
              ))}
            </>
          )}
        </chakra.div>
        <chakra.aside w="300px" flexShrink={0} overflowY="auto" borderLeftWidth="1px" borderColor="hair" pl="4">
          <Category key={l.category} l={l} />
          {l.new_entry && (
            <div>
              {l.site} has no entry for it: this makes one. From then on it is an offer on its entry like any other.
            </div>
          )}
          {l.all_terms.length > 0 && (
            <>
              <chakra.h2 fontWeight="700" mt="4">
                Selling terms
              </chakra.h2>
              <Select
                aria-label="Selling terms"
                value={l.terms_own ? l.terms : ""}
                onChange={(e) => d.keep("terms", e.currentTarget.value)}
              >
                <option value="">
                  {l.terms && !l.terms_own ? `${l.terms}, as its category` : "those of its category"}
                </option>
                {l.all_terms.map((t) => (
                  <option key={t} value={t}>
                    {t}
                  </option>
                ))}
              </Select>
            </>
          )}
          <chakra.h2 fontWeight="700" mt="4">
            {l.supplier} says
          </chakra.h2>
          <div>{l.supplier_title}</div>
          {view !== "pictures" && (
            <chakra.h2 fontWeight="700" mt="4">
              Pictures
            </chakra.h2>
          )}
          <chakra.div hidden={view === "pictures"} display="flex" flexWrap="wrap" gap="2" mt="1">
            {l.pictures.map((p, i) => (
              <chakra.figure key={p.digest} m="0" w="84px">
                <Thumb digest={p.digest} size={84} alt={`Picture ${i + 1} of ${l.product}`} />
                <chakra.figcaption fontSize="12px" color={p.words ? "loss" : "quiet"}>
                  {p.words || `${p.width} × ${p.height}`}
                </chakra.figcaption>
              </chakra.figure>
            ))}
            {l.pictures.length === 0 && <Quiet>There are none yet.</Quiet>}
            {l.pictures_changed && <div>{l.supplier} changed its pictures since you chose these.</div>}
          </chakra.div>
          {view !== "pictures" && (
            <Button size="small" mt="1" onClick={() => turn("pictures")}>
              {l.pictures.length === 0 ? "Add pictures" : "Choose and mend"} <Key>p</Key>
            </Button>
          )}
          {l.other.length > 0 && (
            <>
              <chakra.h2 fontWeight="700" mt="4">
                Besides
              </chakra.h2>
              {l.other.map((w) => (
                <chakra.div key={w} color="loss">
                  {w}
                </chakra.div>
              ))}
            </>
          )}
          {l.fixed && <Differs l={l} />}
          <Shown key={JSON.stringify(l.shown)} ids={[l.id]} how={l.shown} />
          <Button size="small" mt="5" display="block" onClick={() => go(`/prepare/new?copy=${l.id}`)}>
            Make one like it
          </Button>
          <Unlist l={l} onDone={() => go("/prepare")} />
        </chakra.aside>
      </chakra.div>
    </>
  );
}

/** Differs says in what a listing on sale is to be otherwise than it is there, and sends that. */
function Differs({ l }: { l: Prepared }) {
  const send = useSubmitContent(() => ({ body: { listings: [l.id] } }));
  if (l.changed.length === 0 && !l.untold)
    return (
      <Quiet display="block" mt="4" fontSize="12.5px">
        It says there what it says here.
      </Quiet>
    );
  return (
    <chakra.section aria-label="What differs there" mt="4">
      <chakra.h2 fontWeight="700">On sale</chakra.h2>
      <div>
        {l.untold
          ? "What it says there isn't known here: all of it can be sent."
          : `It says something else there: ${l.changed.map(nameOf).join(", ").toLowerCase()}.`}
      </div>
      <Trouble error={send.error} />
      {send.data?.lines === 0 && <Quiet role="status">Its words are on their way already.</Quiet>}
      <Button size="small" mt="1" disabled={send.isPending} onClick={() => send.mutate(undefined)}>
        {l.untold ? "Send all it says" : "Send what differs"}
      </Button>
    </chakra.section>
  );
}

/** Unlist takes a listing off its site again, after a second word. */
function Unlist({ l, onDone }: { l: Prepared; onDone: () => void }) {
  const [sure, setSure] = useState(false);
  const off = useUnlistPreparations(() => ({ body: { ids: [l.id] } }));
  return (
    <chakra.div mt="2">
      <Trouble error={off.error} />
      {sure ? (
        <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
          <Quiet>{l.fixed ? "It is put to nothing by the plan." : "What was said of it is forgotten."}</Quiet>
          <Button size="small" disabled={off.isPending} onClick={() => off.mutate(undefined, { onSuccess: onDone })}>
            Yes, take it off
          </Button>
          <Button size="small" look="plain" onClick={() => setSure(false)}>
            No
          </Button>
        </chakra.div>
      ) : (
        <Button size="small" onClick={() => setSure(true)}>
          Take it off {l.site}
        </Button>
      )}
    </chakra.div>
  );
}

/** Progress is how much of what is needed and what helps is done. */
function Progress({ l }: { l: Prepared }) {
  return (
    <chakra.span display="flex" gap="3" alignItems="center" whiteSpace="nowrap">
      <span>
        <Code color="ink">
          {l.needed[0]}/{l.needed[1]}
        </Code>{" "}
        needed
      </span>
      {l.helps[1] > 0 && (
        <span>
          <Code color="ink">
            {l.helps[0]}/{l.helps[1]}
          </Code>{" "}
          that helps
        </span>
      )}
    </chakra.span>
  );
}
