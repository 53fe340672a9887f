import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listContentDifferences, useCompareListing, useSettleContentDifferences } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Key, Quiet, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { useKeys } from "../../parts/keys";
import { Panel } from "../../parts/panel";
import { Pictured } from "../../parts/picture";
import { toggled } from "../../parts/toggled";
import { time } from "../../parts/when";
import { nameOf } from "../preparing/words";

type Row = Schemas["BesideRow"];

/** SaidThere are listings on sale that say something else there than was sent:
 * each opens into what was sent and what is there, field by field. */
export function SaidThere() {
  const a = useAddress();
  const { data: clock } = useClock();
  const list = useParts(listContentDifferences, { query: { ...a.sorting } });
  const opened = list.rows.find((r) => r.id === a.open);
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="Changed there"
          list={list}
          open={a.open}
          onOpen={(r) => a.setOpen(r.id)}
          sorting={a.sorting ?? { sort: "seen", desc: true }}
          onSort={a.setSorting}
          empty={
            <Empty title="Every listing says there what was sent">
              What somebody changes of a listing at a place that tells its words stands here once it has been read back.
            </Empty>
          }
          columns={columns(clock?.now).filter((c) => !opened || ["title", "fields"].includes(c.key))}
        />
        {opened && <FieldByField key={opened.id} row={opened} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

const columns = (now?: string): Column<Row>[] => [
  {
    key: "title",
    head: "Product",
    width: "minmax(200px, 1.3fr)",
    cell: (r) => <Pictured digest={r.picture}>{r.title}</Pictured>,
  },
  { key: "sku", head: "SKU", width: "110px", sort: "sku", cell: (r) => <Code>{r.sku}</Code> },
  { key: "site", head: "Site", width: "140px", sort: "site", cell: (r) => r.site },
  { key: "category", head: "Category", width: "130px", cell: (r) => <Quiet>{r.category}</Quiet> },
  {
    key: "fields",
    head: "Changed there",
    width: "minmax(180px, 1fr)",
    cell: (r) => r.fields.map(nameOf).join(", "),
  },
  { key: "seen", head: "Read back", width: "110px", sort: "seen", cell: (r) => time(r.seen, now) },
];

/** FieldByField lays what was sent beside what is there; ticked, theirs is kept. */
function FieldByField({ row, onClose }: { row: Row; onClose: () => void }) {
  const [theirs, setTheirs] = useState(new Set<string>());
  const { data, error } = useCompareListing({ path: { id: row.id } });
  const settle = useSettleContentDifferences(() => ({ body: { ids: [row.id], theirs: [...theirs] } }));
  const act = () => data && !settle.isPending && settle.mutate(undefined, { onSuccess: onClose });
  useKeys({ ".": act }, true, [[".", "decide as it is ticked"]]);
  return (
    <Panel label="Field by field" onClose={onClose}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" pr="12" mb="1">
        {row.title}
      </chakra.h2>
      <Quiet>
        <Code>{row.sku}</Code> {row.site}. Tick what stays as it is there; the rest is sent as ours, among the changed
        words.
      </Quiet>
      <Trouble error={error ?? settle.error} />
      {data?.map((f) => (
        <chakra.section
          key={f.field}
          aria-label={nameOf(f.field)}
          borderTopWidth="1px"
          borderColor="hair"
          mt="3"
          pt="2"
        >
          <chakra.label display="flex" gap="2" alignItems="baseline" fontWeight="600">
            <input
              type="checkbox"
              checked={theirs.has(f.field)}
              disabled={!f.may_keep}
              onChange={() => setTheirs(toggled(theirs, f.field))}
            />
            {nameOf(f.field)}
            {!f.may_keep && <Quiet fontWeight="400">can't be kept from there</Quiet>}
          </chakra.label>
          <Side name="sent" text={f.sent} quiet={theirs.has(f.field)} />
          {f.wanted !== f.sent && <Side name="ours now" text={f.wanted} quiet={theirs.has(f.field)} />}
          <Side name="there" text={f.there} quiet={!theirs.has(f.field)} />
        </chakra.section>
      ))}
      {data && (
        <chakra.div display="flex" gap="2" mt="4" flexWrap="wrap">
          <Button look="main" disabled={settle.isPending} onClick={act}>
            {theirs.size === 0 ? "Ours holds for all" : `Keep ${theirs.size} as there`} <Key>.</Key>
          </Button>
          <Button onClick={() => setTheirs(new Set(data.filter((f) => f.may_keep).map((f) => f.field)))}>
            Tick all
          </Button>
        </chakra.div>
      )}
    </Panel>
  );
}

function Side({ name, text, quiet }: { name: string; text: string; quiet: boolean }) {
  return (
    <chakra.div display="flex" gap="2" py="0.5" fontSize="13px">
      <Quiet w="64px" flexShrink={0}>
        {name}
      </Quiet>
      <chakra.span overflowWrap="anywhere" color={quiet ? "quiet" : "ink"} maxH="120px" overflowY="auto">
        {text || <Quiet>nothing</Quiet>}
      </chakra.span>
    </chakra.div>
  );
}
