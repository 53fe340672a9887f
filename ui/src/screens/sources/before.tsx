import { chakra } from "@chakra-ui/react";
import { type ReactNode, useEffect } from "react";
import { useForm, useFormContext } from "react-hook-form";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { createSource, takeFeed, useCheckFeed, useDiscardFeed } from "../../api/operations";
import { useDo, useSources } from "../../api/queries";
import { Button, Code, Input, Key, Quiet, Select, Trouble, Word } from "../../parts/controls";
import { Form, Text, useServerFaults } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { CostsTax, saidCosts } from "./costs";
import { useFields } from "./queries";

type FeedView = Schemas["FeedView"];
type Checked = Schemas["Checked"];

const kinds: Record<string, string> = {
  delimited: "delimited text",
  xlsx: "a sheet",
  json: "JSON",
  jsonl: "JSON Lines",
  xml: "XML",
  html: "a product's page",
};
const marks: Record<string, string> = { "\t": "tabs", ",": "commas", ";": "semicolons", "|": "bars" };

/** BeforeTaking shows what was recognised, what each column is read as, and what
 * taking the feed would come to; the mapping is put right here. */
export function BeforeTaking({ feed }: { feed: FeedView }) {
  const { data: sources } = useSources();
  const go = useNavigate();
  const form = useForm({
    defaultValues: {
      source: feed.source_id ? String(feed.source_id) : "",
      supplier: "",
      currency: "",
      charge: "",
      tax: "" as NonNullable<Schemas["NewSource"]["tax"]> | "",
      tax_rate: "",
      columns: {} as Record<string, string>, // chosen by hand, by name
      header: "", // the row with the names, where it is another than was recognised
    },
  });
  const { columns, supplier, header, charge, tax, tax_rate, ...v } = form.watch();
  const row = /^\d{1,3}$/.test(header) && Number(header) > 0 ? Number(header) : undefined;
  const source = v.source || (sources?.length === 0 ? "new" : "");
  const known = source !== "" && source !== "new" ? Number(source) : undefined;
  const check = useCheckFeed(
    {
      path: { id: feed.id },
      body: { source_id: known, columns: Object.keys(columns).length ? columns : undefined, header_row: row },
    },
    { keep: true, retry: false },
  );
  const missing = check.data?.missing ?? feed.missing;
  const look = check.data?.look ?? feed.look;
  const { setValue, getFieldState } = form;
  const said = look?.currency;
  useEffect(() => {
    if (said && !getFieldState("currency").isDirty) setValue("currency", said); // until it is typed over
  }, [said, setValue, getFieldState]);
  const { currency } = v;
  const take = useDo(async () => {
    let id = Number(source);
    if (source === "new")
      id = (await createSource({ body: { supplier, currency, charge, tax: tax || undefined, tax_rate } })).id;
    const chosen = row ? { ...readAs(look?.columns ?? []), ...columns } : columns; // by its names its header is known again
    return takeFeed({
      path: { id: feed.id },
      body: { source_id: id, columns: Object.keys(chosen).length ? chosen : undefined },
    });
  });
  const drop = useDiscardFeed(() => ({ path: { id: feed.id } }));
  const ready =
    missing.length === 0 &&
    source !== "" &&
    (source !== "new" || (supplier.trim() !== "" && currency.trim() !== "" && saidCosts({ charge, tax, tax_rate }))) &&
    !take.isPending;
  const act = () => ready && take.mutate(undefined);
  useKeys({ ".": act, Escape: () => go("/sources") }, true, [
    [".", "take this feed"],
    ["Esc", "back to all sources"],
  ]);
  const rest = useServerFaults(form, take.error);
  return (
    <Form form={form} onSubmit={form.handleSubmit(act)} label="Before it is taken" {...frame}>
      <chakra.div display="flex" columnGap="4" rowGap="2" alignItems="flex-end" flexWrap="wrap" pb="3">
        <Whose
          feed={feed}
          sources={sources ?? []}
          source={source}
          onChange={(to) => {
            form.setValue("source", to);
            if (to === "new") requestAnimationFrame(() => form.setFocus("supplier"));
          }}
        />
        {source === "new" && (
          <>
            <Text upright name="supplier" label="Supplier's name" w="180px" faults={["supplier", "name"]} />
            <Text upright upper name="currency" label="Costs are in" w="72px" hint="as GBP" />
            <Text upright figures name="charge" label="One order's delivery" w="110px" hint="0 if none" />
            <CostsTax upright />
          </>
        )}
        {look && (
          <Quiet pb="1" flex="1" minW="0">
            <Recognised look={look} row={<HeaderRow found={look.header_row} />} />
          </Quiet>
        )}
        <Button onClick={() => drop.mutate(undefined, { onSuccess: () => go("/sources") })}>Discard</Button>
        <Button type="submit" look="main" disabled={!ready}>
          Take this feed <Key>.</Key>
        </Button>
      </chakra.div>
      {missing.length > 0 && (
        <Trouble
          error={
            new Error(
              `No column is read as ${missing.join(" or ")} yet. Say below which column it is; a row without it is set aside.`,
            )
          }
        />
      )}
      <Trouble error={rest ?? drop.error ?? check.error} />
      <chakra.div display="grid" gridTemplateColumns="minmax(0, 1fr) 430px" gap="5" flex="1" minH="0">
        <Columns
          columns={look?.columns ?? []}
          onChoose={(name, field) => form.setValue("columns", rechosen(look?.columns ?? [], columns, name, field))}
        />
        <WouldBe checked={check.data} busy={check.isFetching} />
      </chakra.div>
    </Form>
  );
}

const frame = { display: "flex", flexDirection: "column", flex: "1", minH: "0" } as const;

/** Recognised says what the file was taken for. */
function Recognised({ look, row }: { look: NonNullable<FeedView["look"]>; row: ReactNode }) {
  return (
    <>
      {kinds[look.kind] ?? look.kind}
      {look.wrapping && ` in a ${look.wrapping}`}
      {look.encoding && ` in ${look.encoding.toUpperCase()}`}
      {look.delimiter && `, parted by ${marks[look.delimiter]}`}
      {look.sheets?.length > 1 && `, sheet “${look.sheet}”`}
      {look.header_row > 0 && <>, names of the columns in row {row}</>}, {look.rows} {look.rows === 1 ? "row" : "rows"}
      {look.currency && `, costs in ${look.currency}`}
    </>
  );
}

/** HeaderRow is the row with the names of the columns, which a person can put right. */
function HeaderRow({ found }: { found: number }) {
  const { register } = useFormContext<{ header: string }>();
  return (
    <Input
      figures
      w="48px"
      h="24px"
      inputMode="numeric"
      aria-label="Row with the names of the columns"
      placeholder={String(found)}
      {...register("header")}
    />
  );
}

/** readAs is what each column is read as, by its name. */
function readAs(all: { name: string; field: string }[]): Record<string, string> {
  return Object.fromEntries(all.filter((c) => c.name && c.field).map((c) => [c.name, c.field]));
}

/** rechosen gives one column a field; a field that another column had moves over. */
export function rechosen(
  all: { name: string; field: string }[],
  columns: Record<string, string>,
  name: string,
  field: string,
): Record<string, string> {
  const next = { ...columns, [name]: field };
  if (field && field !== "pictures")
    for (const c of all) if (c.name !== name && (columns[c.name] ?? c.field) === field) next[c.name] = "";
  return next;
}

const Small = chakra("span", { base: { display: "block", fontSize: "12px", color: "quiet" } });

function Whose(p: {
  feed: FeedView;
  sources: Schemas["SourceView"][];
  source: string;
  onChange: (source: string) => void;
}) {
  if (p.feed.source_id)
    return (
      <div>
        <Small>Whose is it</Small>
        <chakra.span fontWeight="600" lineHeight="30px" whiteSpace="nowrap">
          {p.sources.find((s) => s.id === p.feed.source_id)?.name}
        </chakra.span>
      </div>
    );
  return (
    <chakra.label>
      <Small>Whose is it</Small>
      <Select value={p.source} onChange={(e) => p.onChange(e.target.value)}>
        <option value="" disabled>
          choose…
        </option>
        {p.sources.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
        <option value="new">a new supplier</option>
      </Select>
    </chakra.label>
  );
}

function Columns(p: { columns: Schemas["Column"][]; onChoose: (name: string, field: string) => void }) {
  const { data } = useFields();
  return (
    <chakra.div overflowY="auto" minH="0">
      <chakra.table w="100%" tableLayout="fixed">
        <thead>
          <chakra.tr color="quiet" fontSize="12.5px" textAlign="left" borderBottomWidth="1px" borderColor="hair">
            <chakra.th w="150px" h="32px" px="2">
              Column in the file
            </chakra.th>
            <chakra.th w="180px">Read as</chakra.th>
            <th>First values</th>
          </chakra.tr>
        </thead>
        <tbody>
          {p.columns.map((c, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two columns may have one name
            <chakra.tr key={i} borderBottomWidth="1px" borderColor="hair" h="34px">
              <chakra.td px="2" fontWeight="600" truncate title={c.name}>
                {c.name || <Quiet>no name</Quiet>}
              </chakra.td>
              <td>
                <Select
                  aria-label={`${c.name} is read as`}
                  w="170px"
                  h="26px"
                  value={c.field}
                  disabled={!c.name}
                  onChange={(e) => p.onChoose(c.name, e.target.value)}
                >
                  <option value="">its own name</option>
                  {(data ?? []).map((f) => (
                    <option key={f} value={f}>
                      {f === "box" ? "length × width × height" : f.replaceAll("_", " ")}
                    </option>
                  ))}
                </Select>
              </td>
              <chakra.td truncate fontFamily="mono" fontSize="12.5px" color="quiet">
                {c.proposed && !c.field && (
                  <Button size="small" mr="3" onClick={() => p.onChoose(c.name, c.proposed ?? "")}>
                    Could be the {c.proposed}: read it so
                  </Button>
                )}
                {c.samples.join("  ·  ")}
              </chakra.td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </chakra.div>
  );
}

/** WouldBe is what taking the feed would come to: live counts, and the rows that have something to say. */
function WouldBe({ checked: c, busy }: { checked?: Checked; busy: boolean }) {
  const figures: [string, number, boolean?][] = c
    ? [
        ["would be taken", c.fine],
        ["repeats", c.repeats],
        ["set aside", c.set_aside, c.set_aside > 0],
        ["warnings", c.warnings],
      ]
    : [];
  return (
    <chakra.section
      aria-label="What taking it would come to"
      borderLeftWidth="1px"
      borderColor="hair"
      pl="4"
      display="flex"
      flexDirection="column"
      minH="0"
      aria-busy={busy}
    >
      {!c && <Quiet>Reading the rows…</Quiet>}
      {c && (
        <>
          <chakra.dl display="flex" gap="6" pb="2" borderBottomWidth="1px" borderColor="hair">
            {figures.map(([name, n, bad]) => (
              <div key={name}>
                <chakra.dd fontFamily="mono" fontSize="18px" fontWeight="600" color={bad ? "loss" : "ink"}>
                  {n}
                </chakra.dd>
                <chakra.dt color="quiet" fontSize="12px" whiteSpace="nowrap">
                  {name}
                </chakra.dt>
              </div>
            ))}
          </chakra.dl>
          {!c.whole && (
            <Quiet py="1" fontSize="12px">
              Of the first {c.rows} rows; all are read when it is taken.
            </Quiet>
          )}
          <chakra.div overflowY="auto" flex="1" minH="0">
            {c.problems.length === 0 && c.missing.length === 0 && (
              <Quiet display="block" py="3">
                Every row reads cleanly.
              </Quiet>
            )}
            {c.problems.map((r) => (
              <chakra.div key={r.row} py="1.5" borderBottomWidth="1px" borderColor="hair">
                <chakra.div display="flex" gap="2" alignItems="baseline">
                  <Code>row {r.row}</Code>
                  <chakra.span truncate fontWeight="600">
                    {r.title || r.ref || "no title"}
                  </chakra.span>
                  {r.problems.length > 0 && <Word tone="bad">set aside</Word>}
                </chakra.div>
                {r.problems.map((p) => (
                  <chakra.div key={p.column + p.reason} fontSize="12.5px">
                    {p.column && <b>{p.column}</b>} {p.value && <Code>{p.value}</Code>} {p.reason}
                  </chakra.div>
                ))}
                {r.warnings.map((w) => (
                  <chakra.div key={w} fontSize="12.5px" color="quiet" overflowWrap="anywhere">
                    {w}
                  </chakra.div>
                ))}
              </chakra.div>
            ))}
          </chakra.div>
        </>
      )}
    </chakra.section>
  );
}
