import { Link, useParams } from "react-router";
import { isOver } from "../../api/events";
import { useClock, useRuns } from "../../api/queries";
import { Button, Title, Trouble, Word } from "../../parts/controls";
import { Progress } from "../../parts/runs";
import { time } from "../../parts/when";
import { AfterReading } from "./after";
import { BeforeTaking } from "./before";
import { useFeed } from "./queries";
import { size, words } from "./words";

/** Feed is one delivery of a supplier: what was recognised before it is taken, what came of it after. */
export function Feed() {
  const id = Number(useParams().id);
  const { data: feed, error, refetch } = useFeed(id);
  const { data: runs } = useRuns();
  const { data: clock } = useClock();
  const run = runs?.find((r) => r.kind === "intake" && r.subject === id && !isOver(r));
  return (
    <>
      <Title
        title={feed ? fileName(feed.name) : "Feed"}
        more={
          feed && (
            <>
              {size(feed.bytes)}, received {time(feed.received, clock?.now)}{" "}
              <Word>{words[feed.state] ?? feed.state}</Word>
            </>
          )
        }
      >
        {run && <Progress run={run} />}
        <Link to="/sources">
          <Button as="span">All sources</Button>
        </Link>
      </Title>
      <Trouble error={error} retry={refetch} />
      {feed?.error && <Trouble error={new Error(feed.error)} />}
      {feed && (feed.state === "looked" ? <BeforeTaking feed={feed} /> : <AfterReading feed={feed} />)}
    </>
  );
}

const fileName = (name: string) => (name.includes("://") ? name.replace(/^.*\/\/[^/]*\//, "").slice(-60) : name);
