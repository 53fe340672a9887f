import { chakra } from "@chakra-ui/react";
import { Button, Code, Input, Quiet } from "../../parts/controls";
import { focusLacking, useTyped } from "./focus";
import type { Prepared } from "./queries";
import { TitleParts } from "./titleparts";

const units: Record<string, string> = {
  "": "characters",
  characters: "characters",
  bytes: "bytes",
  utf16: "UTF-16 units",
};

type Props = {
  l: Prepared;
  draft: string | undefined;
  onType: (field: string, value: string) => void;
  onKeep: (field: string, value: string) => Promise<unknown>;
  onDrop: (field: string) => void;
};

/** TitleBar is the title as it would go up: what it is made of, what was left
 * out, and how long it is in the place's own counting. */
export function TitleBar({ l, draft, onType, onKeep, onDrop }: Props) {
  const f = l.fields.find((x) => x.field === "title");
  const typed = useTyped();
  const byHand = l.typed || draft !== undefined;
  const near = l.limit != null && l.length > l.limit * 0.9;
  return (
    <chakra.section aria-label="Title" borderWidth="1px" borderColor="hair" rounded="5px" bg="panel" p="3">
      <chakra.div display="flex" gap="3" alignItems="center">
        {byHand ? (
          <Input
            aria-label="Title"
            flex="1"
            value={draft ?? l.title}
            data-lacks={f?.level === "stops" || undefined}
            onChange={(e) => onType("title", e.target.value)}
            {...typed({
              keep: () => (draft === undefined ? Promise.resolve() : onKeep("title", draft)),
              drop: () => onDrop("title"),
              after: () => focusLacking(),
            })}
          />
        ) : (
          <chakra.div flex="1" fontSize="16px" fontWeight="600" minH="24px" aria-live="polite">
            {l.title || <Quiet>Nothing to make a title of yet</Quiet>}
          </chakra.div>
        )}
        <Code color={f?.code === "too long" ? "loss" : near ? "ink" : "quiet"} title={units[l.counts] ?? l.counts}>
          {l.length}
          {l.limit != null && `/${l.limit}`}
        </Code>
        {byHand ? (
          <Button size="small" onClick={() => (l.typed ? onKeep("title", "") : onDrop("title"))}>
            Make it of parts
          </Button>
        ) : (
          <Button size="small" onClick={() => onType("title", l.title)}>
            Write it by hand
          </Button>
        )}
      </chakra.div>
      {f?.words && (
        <chakra.div color="loss" fontSize="12.5px" mt="1">
          {f.words}
        </chakra.div>
      )}
      {!byHand && l.parts.length > 0 && <TitleParts l={l} onKeep={(names) => onKeep("title.parts", names.join("|"))} />}
    </chakra.section>
  );
}
