import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../../api/client";
import { Button, Input, Quiet } from "../../../parts/controls";

type Kept = Schemas["KeptText"];

/** written are the kept texts that say something. */
export const written = (list: Kept[]): Kept[] => list.filter((t) => t.name.trim() !== "" && t.text.trim() !== "");

/** Texts are texts that descriptions share, such as a table of sizes: each under
 * a name, of one brand or of all. A part of the template puts one in; so does a
 * key above a description. */
export function Texts({ texts, onChange }: { texts: Kept[]; onChange: (list: Kept[]) => void }) {
  const put = (i: number, by: Partial<Kept>) => onChange(texts.map((t, n) => (n === i ? { ...t, ...by } : t)));
  return (
    <chakra.section aria-label="Kept texts" mt="5">
      <chakra.h2 fontWeight="700" mb="1">
        Kept texts
      </chakra.h2>
      {texts.map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows have nothing else that stays
        <chakra.div key={i} display="flex" gap="2" py="0.5" alignItems="start">
          <Input
            w="160px"
            h="30px"
            aria-label={`Name of kept text ${i + 1}`}
            placeholder="such as Sizes"
            value={t.name}
            onChange={(e) => put(i, { name: e.target.value })}
          />
          <Input
            w="150px"
            h="30px"
            aria-label={`Brand of kept text ${i + 1}`}
            placeholder="any brand"
            value={t.brand ?? ""}
            onChange={(e) => put(i, { brand: e.target.value || undefined })}
          />
          <chakra.textarea
            aria-label={`Kept text ${i + 1}`}
            placeholder={"Size | Chest\nM | 98 cm"}
            rows={3}
            flex="1"
            p="1.5"
            bg="panel"
            borderWidth="1px"
            borderColor="hair"
            rounded="4px"
            value={t.text}
            onChange={(e) => put(i, { text: e.target.value })}
          />
          <Button size="small" look="plain" onClick={() => onChange(texts.filter((_, n) => n !== i))}>
            Leave out
          </Button>
        </chakra.div>
      ))}
      <Button size="small" onClick={() => onChange([...texts, { name: "", text: "" }])}>
        Add one
      </Button>
      <Quiet fontSize="12.5px" ml="2">
        Tables of sizes too: paste them from a spreadsheet, or part the cells by bars.
      </Quiet>
    </chakra.section>
  );
}
