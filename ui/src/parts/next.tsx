import { chakra } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { useCounts } from "../api/queries";
import { Button, Key, Quiet } from "./controls";
import { useKeys } from "./keys";

type Counts = NonNullable<ReturnType<typeof useCounts>["data"]>;
type Stop = "match" | "price" | "prepare" | "send" | "refused" | "watch";

// What waits at each stop of the work, in the order of the work.
const steps: { stop: Stop; n: (c: Counts) => number; words: (n: number) => string; to: string }[] = [
  { stop: "match", n: (c) => c.match_several + c.match_none, words: (n) => `${n} wait on Match`, to: "/match" },
  {
    stop: "price",
    n: (c) => c.unpriced,
    words: (n) => (n === 1 ? "1 has no price" : `${n} have no price`),
    to: "/price?state=unpriced",
  },
  {
    stop: "prepare",
    n: (c) => c.incomplete,
    words: (n) => (n === 1 ? "1 lacks something" : `${n} lack something`),
    to: "/prepare",
  },
  { stop: "send", n: (c) => c.ready, words: (n) => `${n} ready to send`, to: "/send" },
  { stop: "refused", n: (c) => c.refused, words: (n) => `${n} refused: read why`, to: "/send?tab=refused" },
  {
    stop: "watch",
    n: (c) => c.plan_lines,
    words: (n) => (n === 1 ? "1 change to look at" : `${n} changes to look at`),
    to: "/watch",
  },
];

type NextProps = {
  except?: Stop[]; // what the screen itself is about
  first?: Stop; // what the screen has just brought about
  keyed?: boolean;
};

/** Next says what waits further along the work line, after what a screen just
 * did; the first of it by the key of the main action where that is free. */
export function Next({ except = [], first: put, keyed = false }: NextProps) {
  const { data: c } = useCounts();
  const go = useNavigate();
  const waits = c
    ? steps
        .filter((s) => !except.includes(s.stop) && s.n(c) > 0)
        .sort((a, b) => Number(b.stop === put) - Number(a.stop === put))
    : [];
  const first = waits[0];
  useKeys({ ".": () => first && go(first.to) }, keyed && !!first, [[".", "go on with what waits next"]]);
  if (!c) return null;
  return (
    <chakra.nav aria-label="What comes next" display="flex" gap="2" alignItems="center" flexWrap="wrap" mb="3">
      <Quiet>{first ? "Next" : "Nothing waits further on."}</Quiet>
      {waits.map((s) => (
        <Button key={s.stop} size="small" look={keyed && s === first ? "main" : undefined} onClick={() => go(s.to)}>
          {s.words(s.n(c))} {keyed && s === first && <Key>.</Key>}
        </Button>
      ))}
    </chakra.nav>
  );
}
