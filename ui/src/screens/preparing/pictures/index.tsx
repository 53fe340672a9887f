import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useListPictureChoices } from "../../../api/operations";
import { Button, Key, Quiet, Trouble } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import type { Prepared } from "../queries";
import { Adding } from "./adding";
import { useChoice } from "./choice";
import { Retouch } from "./retouch";
import { Strip } from "./strip";

/** Pictures is where those of a listing are chosen, put in order and made ready.
 * Originals stay; what is done to one is done anew as it goes out. */
export function Pictures({ l }: { l: Prepared }) {
  const c = useChoice(l);
  const [cropping, setCropping] = useState(false);
  const desk = useListPictureChoices({ path: { id: l.id } });
  const one = c.list[c.at];
  const turn = () => one && c.redo(c.at, { turn: (((one.recipe.turn ?? 0) + 90) % 360) as 0, crop: undefined });
  const pick = (i: number) => {
    setCropping(false);
    c.pick(i);
  };
  useKeys(
    {
      ArrowLeft: (e) => (e.shiftKey ? c.move(c.at, c.at - 1) : pick(c.at - 1)),
      ArrowRight: (e) => (e.shiftKey ? c.move(c.at, c.at + 1) : pick(c.at + 1)),
      t: turn,
      m: () => one && c.redo(c.at, { mirror: !one.recipe.mirror, crop: undefined }),
      c: () => one && setCropping(!cropping),
      q: () => one && c.redo(c.at, { shape: one.recipe.shape === "square" ? "" : "square" }),
      w: () => one && c.redo(c.at, { white: !one.recipe.white }),
      Delete: () => one && c.drop(c.at),
      Enter: () => c.changed && !c.pending && c.keep(),
    },
    true,
    [
      ["← →", "another picture; with Shift its place"],
      ["t", "turn by a quarter"],
      ["m", "mirror"],
      ["c", "choose the part that is kept"],
      ["q", "square, and as it was"],
      ["w", "white background"],
      ["Delete", "leave it out"],
      ["Enter", "keep the pictures"],
    ],
  );
  const wants = desk.data ? wanted(desk.data) : "";
  return (
    <chakra.section aria-label="Pictures" display="flex" flexDirection="column" gap="3" pb="4">
      <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
        <Quiet flex="1">{wants && `${l.site} wants ${wants}.`}</Quiet>
        {c.list.length > 1 && one && (
          <Button size="small" onClick={() => c.alike(setOf(one.recipe))}>
            All like this one
          </Button>
        )}
        {c.changed ? (
          <>
            <Button size="small" onClick={c.undo}>
              As it was
            </Button>
            <Button size="small" look="main" disabled={c.pending} onClick={c.keep}>
              Keep {c.list.length} {c.list.length === 1 ? "picture" : "pictures"} <Key>Enter</Key>
            </Button>
          </>
        ) : (
          l.fields.length > 0 &&
          l.pictures.some((p) => p.digest !== p.original || p.text) && (
            <Button size="small" onClick={c.takeBack}>
              Take mine back
            </Button>
          )
        )}
      </chakra.div>
      <Trouble error={c.error ?? desk.error} />
      <Strip c={c} title={l.product} onPick={pick} />
      {one ? (
        <Retouch
          key={`${c.at}${one.original}`}
          c={c}
          title={l.title || l.product}
          noMarks={desk.data?.no_marks ?? false}
          side={desk.data?.side ?? 0}
          cropping={cropping}
          onCrop={setCropping}
          onTurn={turn}
        />
      ) : (
        <Quiet>No picture is chosen. Add one below; the first leads.</Quiet>
      )}
      <Adding others={desk.data?.others ?? []} chosen={c.list.map((x) => x.original)} onAdd={c.add} />
    </chakra.section>
  );
}

/** setOf is what makes a set of pictures alike, without what is one's own. */
const setOf = ({ shape, pad, side, enlarge, white, kind }: ReturnType<typeof useChoice>["list"][number]["recipe"]) => ({
  shape,
  pad,
  side,
  enlarge,
  white,
  kind,
});

type Desk = { least: number; most: number; side: number; square: boolean; kinds: string[]; no_marks: boolean };

/** wanted says what a place wants of pictures. */
function wanted(d: Desk): string {
  const many = d.most ? `${d.least} to ${d.most}` : d.least ? `${d.least} or more` : "";
  return [
    many && `${many} pictures`,
    d.square && "square",
    d.side && `${d.side} pixels or more`,
    d.kinds.length > 0 && d.kinds.join(" or "),
    d.no_marks && "no captions or marks",
  ]
    .filter(Boolean)
    .join(", ");
}
