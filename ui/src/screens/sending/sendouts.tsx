import { chakra } from "@chakra-ui/react";
import { useLocation, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useParts } from "../../api/operation";
import { listSubmissions } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Behind } from "../../parts/behind";
import { Code, Empty, Trouble } from "../../parts/controls";
import { type Column, Grid } from "../../parts/grid";
import { time } from "../../parts/when";

type Row = Schemas["SendOutRow"];

/** SendOuts are all that went out, newest first. */
export function SendOuts() {
  const go = useNavigate();
  const { data: clock } = useClock();
  const list = useParts(listSubmissions, {});
  return (
    <>
      <Left />
      <Trouble error={list.error} retry={list.retry} />
      <Grid
        label="Send-outs"
        list={list}
        onOpen={(o) => go(`/send/${o.id}`)}
        empty={
          <Empty title="Nothing was sent yet">
            Each batch that goes to a marketplace stands here, with an outcome for each of its lines.
          </Empty>
        }
        columns={[
          { key: "created", head: "Begun", width: "104px", cell: (o) => time(o.created, clock?.now) },
          { key: "site", head: "To", width: "140px", cell: (o) => o.site },
          { key: "what", head: "What", width: "104px", cell: (o) => (o.plan_id ? "changes" : "new listings") },
          count("lines", "Lines"),
          count("waiting", "Waiting"),
          count("confirmed", "Confirmed"),
          count("refused", "Refused", true),
          count("unknown", "Unknown", true),
          count("given_up", "Given up"),
          {
            key: "words",
            head: "How it stands",
            width: "minmax(0, 1fr)",
            cell: (o) => (
              <chakra.span color={o.error ? "loss" : "ink"} title={o.error || o.words}>
                {o.error || o.words}
              </chakra.span>
            ),
          },
        ]}
      />
    </>
  );
}

type Counted = "lines" | "waiting" | "confirmed" | "refused" | "unknown" | "given_up";

const count = (key: Counted, head: string, bad = false): Column<Row> => ({
  key,
  head,
  width: "78px",
  right: true,
  cell: (o) => <Code color={bad && o[key] ? "loss" : o[key] ? "ink" : "quiet"}>{o[key]}</Code>,
});

/** Left says what stayed behind of what was sent a moment ago on another screen. */
export function Left() {
  return <Behind n={(useLocation().state as Partial<Schemas["Sent"]> | null)?.reworked ?? 0} />;
}
