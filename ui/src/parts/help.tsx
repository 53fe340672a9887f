import { chakra } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { Button, Key } from "./controls";
import { type Said, useKeysHere } from "./keys";

const everywhere: Said[] = [
  ["/", "find a product"],
  ["?", "these keys"],
];

/** KeyHelp shows the keys that do something here. */
export function KeyHelp({ stops, onClose }: { stops: { letter: string; label: string }[]; onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  const here = useKeysHere();
  useEffect(() => box.current?.showModal(), []);
  const list = (title: string, keys: Said[]) =>
    keys.length > 0 && (
      <chakra.section mb="3" aria-label={title}>
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
      minW="460px"
    >
      <chakra.div display="grid" gridTemplateColumns="1fr 1fr" gap="6">
        <div>
          {list("On this screen", here)}
          {list("Everywhere", everywhere)}
        </div>
        {list(
          "Jump",
          stops.map((s): Said => [`J ${s.letter}`, s.label]),
        )}
      </chakra.div>
      <Button onClick={onClose}>Close</Button>
    </chakra.dialog>
  );
}
