import { chakra } from "@chakra-ui/react";
import { useRef } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listRejectedRows, mendRejectedRow, takeFeed, uploadFeed } from "../../api/operations";
import { useDo } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { Form, useKeep, Wrong } from "../../parts/form";
import { Grid } from "../../parts/grid";
import { Panel } from "../../parts/panel";

type FeedView = Schemas["FeedView"];
type SetAside = Schemas["SetAsideView"];

/** Aside are the rows a feed set aside: mended here one by one, or downloaded,
 * mended in a spreadsheet and sent again. */
export function Aside({ feed }: { feed: FeedView }) {
  const a = useAddress();
  const go = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const list = useParts(listRejectedRows, { path: { id: feed.id } });
  const again = useDo(async (f: File) => {
    const part = await uploadFeed({ query: { name: f.name, part_of: feed.id }, body: f });
    await takeFeed({ path: { id: part.id }, body: { source_id: feed.source_id ?? 0 } });
    return part;
  });
  const open = list.rows.find((r) => r.id === a.open);
  const taken = feed.state === "taken";
  return (
    <>
      <Trouble error={list.error ?? again.error} retry={list.error ? list.retry : undefined} />
      {list.total > 0 && (
        <chakra.div py="1.5" display="flex" gap="3" alignItems="center">
          <a href={`/api/v1/feeds/${feed.id}/rejected-rows/export.csv`}>
            <Button as="span" size="small">
              Download with reasons
            </Button>
          </a>
          {taken && (
            <>
              <input
                ref={file}
                type="file"
                hidden
                data-testid="mended"
                onChange={(e) => {
                  const f = e.target.files?.[0];
                  if (f) again.mutate(f, { onSuccess: (part) => go(`/sources/feeds/${part.id}`) });
                }}
              />
              <Button size="small" onClick={() => file.current?.click()} disabled={again.isPending}>
                Send the mended file
              </Button>
              <Quiet>or open a row and mend it here</Quiet>
            </>
          )}
        </chakra.div>
      )}
      <chakra.div display="flex" flex="1" minH="0" gap="4">
        <Grid
          label="Rows set aside"
          list={list}
          open={a.open}
          onOpen={(r) => a.setOpen(r.id)}
          empty={<Empty title="No row was set aside">Every row of this feed could be read.</Empty>}
          columns={[
            { key: "row", head: "Row", width: "60px", right: true, cell: (r) => <Code>{r.row}</Code> },
            {
              key: "column",
              head: "Column",
              width: "130px",
              cell: (r) => r.problems.map((p) => p.column).join(", ") || <Quiet>all of it</Quiet>,
            },
            {
              key: "value",
              head: "Value",
              width: "150px",
              cell: (r) => (r.problems[0]?.value ? <Code>{r.problems[0].value}</Code> : <Quiet>empty</Quiet>),
            },
            {
              key: "reason",
              head: "Why it was not taken",
              width: "minmax(0, 1fr)",
              cell: (r) => r.problems.map((p) => p.reason).join("; "),
            },
            {
              key: "state",
              head: <chakra.span srOnly>State</chakra.span>,
              width: "76px",
              cell: (r) => (r.mended_by ? <Word tone="good">mended</Word> : null),
            },
          ]}
        />
        {open && <Mend key={open.id} row={open} feed={feed} onClose={() => a.setOpen(null)} />}
      </chakra.div>
    </>
  );
}

/** Mend is one row with all its cells, to be put right and taken. */
function Mend({ row, feed, onClose }: { row: SetAside; feed: FeedView; onClose: () => void }) {
  const keep = useKeep<{ cells: string[] }, unknown>({
    values: { cells: row.cells },
    keep: (body) => mendRejectedRow({ path: { id: row.id }, body }),
    done: onClose,
  });
  const wrong = new Map(row.problems.map((p) => [p.column, p.reason]));
  const first = feed.look?.columns.findIndex((c) => wrong.has(c.name)) ?? -1;
  return (
    <Panel label={`Row ${row.row}`} onClose={onClose}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" mb="1">
        Row {row.row}
      </chakra.h2>
      {row.problems
        .filter((p) => !p.column)
        .map((p) => (
          <Trouble key={p.reason} error={new Error(p.reason)} />
        ))}
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error}>
        {feed.look?.columns.map((c, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two columns may have one name
          <chakra.label key={i} display="grid" gridTemplateColumns="130px 1fr" gap="2" alignItems="center" py="0.5">
            <chakra.span truncate title={c.name} color={wrong.has(c.name) ? "loss" : "quiet"}>
              {c.name}
            </chakra.span>
            <span>
              <Input
                w="100%"
                h="28px"
                autoFocus={i === first}
                disabled={feed.state !== "taken" || !!row.mended_by}
                aria-invalid={wrong.has(c.name)}
                {...keep.form.register(`cells.${i}`)}
              />
              {wrong.has(c.name) && (
                <chakra.span display="block" color="loss" fontSize="12px">
                  {wrong.get(c.name)}
                </chakra.span>
              )}
            </span>
          </chakra.label>
        ))}
        <Wrong of={["cells"]} />
        <chakra.div pt="2" pb="3">
          {row.mended_by ? (
            <Quiet>This row was mended and taken.</Quiet>
          ) : feed.state === "taken" ? (
            <Button look="main" type="submit" disabled={keep.busy}>
              Take this row <Key>Enter</Key>
            </Button>
          ) : (
            <Quiet>Take the feed first; then its rows can be mended.</Quiet>
          )}
        </chakra.div>
      </Form>
    </Panel>
  );
}
