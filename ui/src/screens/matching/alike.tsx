import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useDecideMatches } from "../../api/operations";
import { Button, Code, Key, Quiet, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Thumb } from "../../parts/picture";
import { toggled } from "../../parts/toggled";
import { Marked } from "./board";
import { useAlike } from "./queries";

/** Alike offers the same decision for those that differ in the same way, each shown before. */
export function Alike({ to, onClose }: { to: number; onClose: () => void }) {
  const { data, error, isLoading } = useAlike(to, true);
  const [left, setLeft] = useState<Set<number>>(new Set()); // out
  const rows = data ?? [];
  const chosen = rows.filter((r) => !left.has(r.id));
  const decide = useDecideMatches(() => ({
    body: {
      choices: chosen.map((r) => ({
        id: r.id,
        entry: r.entry,
        units_bought: r.units_bought,
        units_listed: r.units_listed,
      })),
    },
  }));
  const accept = () => {
    if (chosen.length > 0 && !decide.isPending) decide.mutate(undefined, { onSuccess: onClose });
  };
  useKeys({ Escape: onClose, Enter: accept }, true, [["Enter", "accept those that are alike"]]);
  return (
    <chakra.section aria-label="Those like it" borderWidth="1px" borderColor="hair" rounded="5px" p="2" my="2">
      <chakra.div display="flex" gap="3" alignItems="center" pb="1">
        <chakra.strong flex="1">
          {isLoading
            ? "Looking for those that differ in the same way…"
            : rows.length === 0
              ? "No other differs in the same way."
              : `${rows.length} of the same brand differ in the same way`}
        </chakra.strong>
        {rows.length > 0 && (
          <Button look="main" size="small" onClick={accept} disabled={chosen.length === 0 || decide.isPending}>
            Accept {chosen.length} <Key>Enter</Key>
          </Button>
        )}
        <Button size="small" onClick={onClose}>
          Esc
        </Button>
      </chakra.div>
      <Trouble error={error ?? decide.error} />
      <chakra.div maxH="220px" overflowY="auto" tabIndex={rows.length > 0 ? 0 : undefined}>
        {rows.map((r) => (
          <chakra.label
            key={r.id}
            display="flex"
            gap="2"
            alignItems="center"
            py="1"
            borderTopWidth="1px"
            borderColor="hair"
          >
            <input
              type="checkbox"
              checked={!left.has(r.id)}
              onChange={() => setLeft(toggled(left, r.id))}
              aria-label={r.title}
            />
            <Thumb digest={r.picture} />
            <chakra.span flex="1" minW="0" truncate>
              {r.title}
            </chakra.span>
            <chakra.span flex="1" minW="0" truncate>
              <Marked text={r.entry_title} against={r.title} />
            </chakra.span>
            <Code>{r.entry}</Code>
            <Quiet w="230px" truncate>
              {r.against.join("; ")}
            </Quiet>
          </chakra.label>
        ))}
      </chakra.div>
    </chakra.section>
  );
}
