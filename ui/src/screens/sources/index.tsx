import { chakra } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, bringIn, Problem, read, type Schemas } from "../../api/client";
import { useClock, useDo, useSources } from "../../api/queries";
import { time } from "../../parts/clock";
import { Button, Code, Empty, Input, Key, Quiet, Title, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";

type Source = Schemas["SourceView"];
type FeedView = Schemas["FeedView"];

/** Sources are the ways suppliers' products reach us, and where new files come in. */
export function Sources() {
  const { data, error, refetch } = useSources();
  const sources = data ?? [];
  const file = useRef<HTMLInputElement>(null);
  useKeys({ ".": () => file.current?.click() });
  return (
    <>
      <Title
        title="Sources"
        more={
          data && sources.length > 0
            ? `${sources.length} ${sources.length === 1 ? "way" : "ways"} suppliers' products reach you`
            : ""
        }
      />
      <Trouble error={error} retry={refetch} />
      <BringIn file={file} />
      <chakra.div flex="1" minH="0" overflowY="auto">
        {data && sources.length === 0 && (
          <Empty title="No supplier yet">
            Drop a price list above, or give the address one is fetched from. You see what is recognised before anything
            is kept.
          </Empty>
        )}
        {sources.map((s) => (
          <SourceBlock key={s.id} source={s} />
        ))}
      </chakra.div>
    </>
  );
}

/** BringIn takes a file that is dropped or chosen, or an address. */
function BringIn({ file }: { file: React.RefObject<HTMLInputElement | null> }) {
  const go = useNavigate();
  const [over, setOver] = useState(false);
  const [adding, setAdding] = useState(false);
  const bring = useDo((f: File) => bringIn(f, f.name), "feeds", "sources");
  const take = (f: File | undefined) => f && bring.mutate(f, { onSuccess: (feed) => go(`/sources/feeds/${feed.id}`) });
  return (
    <>
      <chakra.section
        aria-label="Bring in"
        display="flex"
        alignItems="center"
        gap="4"
        px="4"
        py="3"
        mb="2"
        borderWidth="1.5px"
        borderStyle="dashed"
        borderColor={over ? "action" : "hair"}
        rounded="6px"
        bg={over ? "tint" : "panel"}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          take(e.dataTransfer.files[0]);
        }}
      >
        <chakra.div flex="1">
          <chakra.div fontWeight="600">{bring.isPending ? "Receiving the file…" : "Drop a price list here"}</chakra.div>
          <Quiet>
            CSV in UTF-8 with a header row, up to 512 MiB. Nothing is taken before you have seen what was recognised.
          </Quiet>
        </chakra.div>
        <input ref={file} type="file" hidden data-testid="file" onChange={(e) => take(e.target.files?.[0])} />
        <Button look="main" onClick={() => file.current?.click()} disabled={bring.isPending}>
          Choose a file <Key>.</Key>
        </Button>
        <Button onClick={() => setAdding(!adding)} aria-expanded={adding}>
          Add an address
        </Button>
      </chakra.section>
      <Trouble error={bring.error} />
      {adding && <AddAddress onDone={() => setAdding(false)} />}
    </>
  );
}

function AddAddress({ onDone }: { onDone: () => void }) {
  const [v, setV] = useState({ supplier: "", address: "", currency: "GBP", charge: "", free_from: "" });
  const make = useDo((body: typeof v) => read(api.POST("/api/sources", { body })), "sources");
  const fetchIt = useDo(
    (id: number) => read(api.POST("/api/sources/{id}/fetch", { params: { path: { id } } })),
    "runs",
  );
  const wrong = make.error instanceof Problem ? make.error.fields : {};
  const field = (name: keyof typeof v, label: string, w: string, hint = "") => (
    <chakra.label display="block" w={w}>
      <chakra.span display="block" fontSize="12px" color="quiet">
        {label}
      </chakra.span>
      <Input
        value={v[name]}
        placeholder={hint}
        aria-invalid={!!wrong[name]}
        w="100%"
        onChange={(e) => setV({ ...v, [name]: e.target.value })}
      />
      {wrong[name] && (
        <chakra.span color="loss" fontSize="12px">
          {wrong[name]}
        </chakra.span>
      )}
    </chakra.label>
  );
  return (
    <chakra.form
      display="flex"
      gap="3"
      alignItems="flex-start"
      flexWrap="wrap"
      mb="3"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(v, {
          onSuccess: (s) => {
            fetchIt.mutate(s.id);
            onDone();
          },
        });
      }}
    >
      {field("supplier", "Supplier", "190px")}
      {field("address", "Address of the price list", "340px", "https://…/prices.csv")}
      {field("currency", "Currency", "80px")}
      {field("charge", "Their delivery", "110px", "none")}
      {field("free_from", "free from", "110px", "never")}
      <chakra.div pt="18px">
        <Button look="main" type="submit" disabled={make.isPending}>
          Add and fetch
        </Button>
      </chakra.div>
      {make.error && Object.keys(wrong).length === 0 && <Trouble error={make.error} />}
    </chakra.form>
  );
}

const tone = (state: string) => (state === "failed" || state === "held" ? "bad" : undefined);

function SourceBlock({ source: s }: { source: Source }) {
  const { data: clock } = useClock();
  const go = useNavigate();
  const fetchIt = useDo(
    (id: number) => read(api.POST("/api/sources/{id}/fetch", { params: { path: { id } } })),
    "runs",
  );
  const waits = s.feeds.find((f) => f.state === "looked" || f.state === "held");
  const cells = "150px 90px repeat(6, 80px) 1fr";
  return (
    <chakra.section aria-label={s.name} mb="5">
      <chakra.div
        display="flex"
        alignItems="center"
        gap="3"
        px="2"
        minH="40px"
        bg="band"
        borderBottomWidth="1px"
        borderColor="hair"
      >
        <chakra.h2 fontWeight="700" fontSize="15px">
          {s.name}
        </chakra.h2>
        <Code truncate minW="0">
          {s.address || "files by hand"}
        </Code>
        <Quiet whiteSpace="nowrap">
          {s.currency}
          {s.taken ? `, ${s.rows} rows, taken ${time(s.taken, clock?.now)}` : ", nothing taken yet"}
        </Quiet>
        <chakra.span flex="1" />
        <Health feeds={s.feeds} />
        {waits && (
          <Button size="small" look="main" onClick={() => go(`/sources/feeds/${waits.id}`)}>
            {waits.state === "held" ? "Compare the held feed" : "Look at the new feed"}
          </Button>
        )}
        {s.address && (
          <Button size="small" disabled={fetchIt.isPending} onClick={() => fetchIt.mutate(s.id)}>
            Fetch now
          </Button>
        )}
      </chakra.div>
      <Trouble error={fetchIt.error} />
      {s.feeds.length > 0 && (
        <chakra.div role="table" aria-label={`Feeds of ${s.name}`}>
          <chakra.div
            role="row"
            display="grid"
            gridTemplateColumns={cells}
            px="2"
            h="28px"
            alignItems="center"
            color="quiet"
            fontSize="12px"
            fontWeight="600"
          >
            {["Received", "State", "Rows", "New", "Changed", "Same", "Set aside", "Gone", ""].map((h, i) => (
              <chakra.span key={h} role="columnheader" textAlign={i > 1 && i < 8 ? "right" : "left"}>
                {h}
              </chakra.span>
            ))}
          </chakra.div>
          {s.feeds.map((f) => (
            <chakra.div
              key={f.id}
              role="row"
              display="grid"
              gridTemplateColumns={cells}
              px="2"
              h="34px"
              alignItems="center"
              borderTopWidth="1px"
              borderColor="hair"
            >
              <span role="cell">{time(f.received, clock?.now)}</span>
              <span role="cell">
                <Word tone={tone(f.state)}>{words[f.state] ?? f.state}</Word>
              </span>
              {(["rows", "new", "changed", "same", "set_aside", "gone"] as const).map((k) => (
                <chakra.span
                  key={k}
                  role="cell"
                  textAlign="right"
                  fontFamily="mono"
                  color={k === "set_aside" && f[k] > 0 ? "loss" : undefined}
                >
                  {f.state === "taken" || f.state === "held" ? f[k] : "–"}
                </chakra.span>
              ))}
              <chakra.span role="cell" pl="6" truncate color={f.error ? "loss" : "quiet"}>
                {f.error ||
                  (f.look || f.state === "taken" || f.state === "held" || f.state === "looked" ? (
                    <Link to={`/sources/feeds/${f.id}`}>
                      <chakra.span textDecoration="underline">open</chakra.span>
                    </Link>
                  ) : null)}
              </chakra.span>
            </chakra.div>
          ))}
        </chakra.div>
      )}
    </chakra.section>
  );
}

export const words: Record<string, string> = { looked: "waits", same: "nothing new", reading: "reading" };

/** Health draws how many rows each feed had, oldest first; a held or failed one stands hollow. */
function Health({ feeds }: { feeds: FeedView[] }) {
  const list = feeds.filter((f) => f.state === "taken" || f.state === "held" || f.state === "failed").reverse();
  const most = Math.max(1, ...list.map((f) => f.rows));
  if (list.length < 2) return null;
  return (
    <svg
      width={list.length * 7}
      height="22"
      role="img"
      aria-label={`Rows of the last ${list.length} feeds: ${list.map((f) => f.rows).join(", ")}`}
    >
      {list.map((f, i) => {
        const h = Math.max(2, (20 * f.rows) / most);
        const fine = f.state === "taken";
        return (
          <rect
            key={f.id}
            x={i * 7 + 0.5}
            y={21 - h}
            width="5"
            height={h}
            fill={fine ? "var(--chakra-colors-strip-cost)" : "none"}
            stroke={fine ? "var(--chakra-colors-strip-cost)" : "var(--chakra-colors-loss)"}
          />
        );
      })}
    </svg>
  );
}
