import { chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import type { Schemas } from "../../../api/client";
import { checkDescription, listPreparations } from "../../../api/operations";
import { useAnswer } from "../../../api/queries";
import { Button, Input, Quiet, Select, Trouble } from "../../../parts/controls";
import { Markup } from "../buyer";
import { nameOf } from "../words";

type Block = Schemas["Block"];
type Props = {
  site: number;
  category: string;
  blocks: Block[];
  texts: Schemas["KeptText"][];
  refs: string[];
  onChange: (blocks: Block[]) => void;
};

const kinds: Record<Block["kind"], string> = {
  text: "Words of yours",
  facts: "Its facts, line by line",
  features: "What it does, longest first",
  supplier: "What the supplier says",
  box: "What is in the box",
  condition: "Its condition",
  kept: "A kept text, by its name",
};

/** Template is what a description is made of, in its order, beside what it makes
 * of one listing. */
export function Template({ site, category, blocks, texts, refs, onChange }: Props) {
  const put = (i: number, by: Partial<Block>) => onChange(blocks.map((b, n) => (n === i ? { ...b, ...by } : b)));
  const move = (i: number, by: number) => {
    const next = [...blocks];
    next.splice(i + by, 0, ...next.splice(i, 1));
    onChange(next);
  };
  return (
    <chakra.section
      aria-label="Description"
      display="grid"
      gridTemplateColumns="minmax(320px, 1.1fr) minmax(240px, 0.9fr)"
      gap="5"
    >
      <div>
        <chakra.h2 fontWeight="700" mb="1">
          Description
        </chakra.h2>
        {blocks.map((b, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: blocks have nothing else that stays
          <chakra.div key={i} borderWidth="1px" borderColor="hair" rounded="4px" bg="panel" p="2" mb="2">
            <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
              <Select
                w="190px"
                aria-label={`Part ${i + 1}`}
                value={b.kind}
                onChange={(e) => put(i, { kind: e.currentTarget.value as Block["kind"] })}
              >
                {Object.entries(kinds).map(([k, words]) => (
                  <option key={k} value={k}>
                    {words}
                  </option>
                ))}
              </Select>
              <Quiet>only with</Quiet>
              <Select
                w="150px"
                aria-label={`Part ${i + 1} only with`}
                value={b.when ?? ""}
                onChange={(e) => put(i, { when: e.currentTarget.value || undefined })}
              >
                <option value="">nothing asked</option>
                {["brand", "series", "model", "pack", ...refs].map((r) => (
                  <option key={r} value={r}>
                    {nameOf(r)}
                  </option>
                ))}
              </Select>
              <chakra.span flex="1" />
              <Button
                size="small"
                look="plain"
                disabled={i === 0}
                aria-label={`Part ${i + 1} up`}
                onClick={() => move(i, -1)}
              >
                ↑
              </Button>
              <Button
                size="small"
                look="plain"
                disabled={i === blocks.length - 1}
                aria-label={`Part ${i + 1} down`}
                onClick={() => move(i, 1)}
              >
                ↓
              </Button>
              <Button
                size="small"
                look="plain"
                aria-label={`Leave part ${i + 1} out`}
                onClick={() => onChange(blocks.filter((_, n) => n !== i))}
              >
                ×
              </Button>
            </chakra.div>
            {b.kind === "text" ? (
              <Words
                value={b.text ?? ""}
                label={`Words of part ${i + 1}`}
                refs={refs}
                onChange={(text) => put(i, { text })}
              />
            ) : (
              <Input
                mt="1.5"
                h="28px"
                w="100%"
                aria-label={b.kind === "kept" ? `Kept text of part ${i + 1}` : `Heading of part ${i + 1}`}
                placeholder={b.kind === "kept" ? "such as Sizes" : "a heading, or none"}
                list={b.kind === "kept" ? "kept-texts" : undefined}
                value={b.text ?? ""}
                onChange={(e) => put(i, { text: e.target.value || undefined })}
              />
            )}
          </chakra.div>
        ))}
        <Button size="small" onClick={() => onChange([...blocks, { kind: blocks.length === 0 ? "text" : "facts" }])}>
          Add a part
        </Button>
      </div>
      <datalist id="kept-texts">
        {[...new Set(texts.map((t) => t.name))].map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
      <Preview site={site} category={category} blocks={blocks} texts={texts} />
    </chakra.section>
  );
}

/** Words is a text with fields to put in where the cursor stands. */
function Words({
  value,
  label,
  refs,
  onChange,
}: {
  value: string;
  label: string;
  refs: string[];
  onChange: (text: string) => void;
}) {
  const box = useRef<HTMLTextAreaElement>(null);
  const insert = (field: string) => {
    const at = box.current?.selectionStart ?? value.length;
    onChange(`${value.slice(0, at)}{${field}}${value.slice(box.current?.selectionEnd ?? at)}`);
    box.current?.focus();
  };
  return (
    <>
      <chakra.textarea
        ref={box}
        aria-label={label}
        rows={3}
        spellCheck
        value={value}
        onChange={(e) => onChange(e.target.value)}
        w="100%"
        mt="1.5"
        p="2"
        bg="ground"
        borderWidth="1px"
        borderColor="hair"
        rounded="4px"
      />
      <chakra.div display="flex" gap="1" flexWrap="wrap" alignItems="center">
        <Quiet fontSize="12px">put in</Quiet>
        {["brand", "kind", "series", ...refs.slice(0, 8)].map((r) => (
          <Button key={r} size="small" look="plain" onClick={() => insert(r)}>
            {nameOf(r).toLowerCase()}
          </Button>
        ))}
      </chakra.div>
    </>
  );
}

type PreviewProps = Pick<Props, "site" | "category" | "blocks" | "texts">;

function Preview({ site, category, blocks, texts }: PreviewProps) {
  const one = useQuery({
    queryKey: ["prepare", "example", site, category],
    queryFn: () => listPreparations({ query: { site, part: "all", limit: 200 } }),
    select: (l) => l.rows[0],
  });
  const usable = blocks.filter((b) => (b.kind !== "text" && b.kind !== "kept") || (b.text ?? "").trim() !== "");
  const shown = useAnswer(
    ["prepare", "describe", one.data?.id, usable, texts],
    (signal) => checkDescription({ path: { id: one.data?.id ?? 0 }, body: { blocks: usable, texts } }, signal),
    !!one.data && usable.length > 0,
  );
  return (
    <chakra.section aria-label="As a buyer reads it">
      <chakra.h2 fontWeight="700" mb="1">
        As a buyer reads it
      </chakra.h2>
      <Trouble error={shown.error} />
      {shown.data?.words && <chakra.div color="loss">{shown.data.words}</chakra.div>}
      {usable.length === 0 ? (
        <Quiet>Without a template, the supplier's own words stand there, cleaned.</Quiet>
      ) : (
        <chakra.article
          borderWidth="1px"
          borderColor="hair"
          rounded="4px"
          bg="panel"
          p="3"
          whiteSpace={shown.data?.markup ? undefined : "pre-line"}
          css={{ "& ul": { paddingLeft: "18px", listStyle: "disc" }, "& p": { marginBottom: "6px" } }}
        >
          <Quiet display="block" mb="2" fontSize="12.5px">
            {one.data?.title}
          </Quiet>
          {shown.data ? shown.data.markup ? <Markup html={shown.data.text} /> : shown.data.text : null}
        </chakra.article>
      )}
    </chakra.section>
  );
}
