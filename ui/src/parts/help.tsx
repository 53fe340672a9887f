import { chakra } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { Button, Key } from "./controls";

const everywhere: [string, string][] = [
  ["/", "find a product"],
  ["↑ ↓", "move in a list"],
  ["Enter", "open"],
  ["Space", "select"],
  ["[ ]", "go through a screen's parts"],
  [".", "do the main action"],
  ["Esc", "step back"],
  ["?", "these keys"],
];

const onMatch: [string, string][] = [
  ["1 – 9", "choose that entry"],
  ["N", "ask for a new entry"],
  ["L", "later"],
];

const onPrice: [string, string][] = [
  ["− +", "try a rule sooner or later"],
  ["← →", "move our mark on the bench"],
  ["↑ ↓", "go through fees"],
];

/** KeyHelp shows the keys. */
export function KeyHelp({ stops, onClose }: { stops: { letter: string; label: string }[]; onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  useEffect(() => box.current?.showModal(), []);
  const list = (title: string, keys: [string, string][]) => (
    <chakra.section mb="3">
      <chakra.h2 fontWeight="700" mb="1">
        {title}
      </chakra.h2>
      {keys.map(([k, does]) => (
        <chakra.div key={k} display="flex" gap="3" py="0.5">
          <chakra.span w="64px">
            <Key>{k}</Key>
          </chakra.span>
          {does}
        </chakra.div>
      ))}
    </chakra.section>
  );
  return (
    <chakra.dialog
      ref={box}
      onClose={onClose}
      aria-label="Keys"
      m="auto"
      p="5"
      bg="panel"
      color="ink"
      borderWidth="1px"
      borderColor="hair"
      rounded="8px"
      minW="420px"
    >
      <chakra.div display="grid" gridTemplateColumns="1fr 1fr" gap="6">
        <div>
          {list("Everywhere", everywhere)}
          {list("On Match", onMatch)}
          {list("On Price", onPrice)}
        </div>
        {list(
          "Jump",
          stops.map((s) => [`J ${s.letter}`, s.label]),
        )}
      </chakra.div>
      <Button onClick={onClose}>Close</Button>
    </chakra.dialog>
  );
}
