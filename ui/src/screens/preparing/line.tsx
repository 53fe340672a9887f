import { chakra } from "@chakra-ui/react";
import { lazy, Suspense, useId } from "react";
import type { Schemas } from "../../api/client";
import { Button, Input, Quiet } from "../../parts/controls";
import { focusLacking, useTyped } from "./focus";
import type { Field } from "./queries";
import { askedWords, fromWords, mark, nameOf } from "./words";

// Read only where a description is written.
const RichText = lazy(() => import("./richtext").then((m) => ({ default: m.RichText })));

type Props = {
  field: Field; // as it would be with what is typed
  kept: string; // its value as it is
  draft: string | undefined;
  onType: (value: string) => void;
  onDrop: () => void;
  onKeep: (value: string) => Promise<unknown>;
  proposed?: string[]; // words that might be added
  proposals?: Schemas["Proposal"][]; // that might stand there
  texts?: Schemas["KeptText"][]; // that might be put in
  besides?: React.ReactNode; // what else can be done about it
  tags?: string[]; // that a description may have
};

/** Line is one thing that is said of a listing: its need, its value, where that
 * comes from, and what is wrong with it. Enter keeps it and goes to the next
 * that lacks something. */
export function Line({
  field: f,
  kept,
  draft,
  onType,
  onDrop,
  onKeep,
  proposed,
  proposals,
  texts,
  tags,
  besides,
}: Props) {
  const id = useId();
  const typed = useTyped();
  const value = draft ?? f.value;
  const off = f.need === "does not apply";
  const keep = () => (draft !== undefined && draft !== kept ? onKeep(draft) : Promise.resolve(onDrop()));
  const box = {
    id,
    value,
    disabled: off,
    "aria-describedby": `${id}w`,
    "aria-invalid": f.level === "stops",
    "data-lacks": (f.level === "stops" && !off) || undefined,
    onChange: (e: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => onType(e.target.value),
    ...typed({ keep, drop: onDrop, after: focusLacking, lines: f.field === "description" }),
  };
  return (
    <chakra.div
      role="listitem"
      display="grid"
      gridTemplateColumns="22px 168px minmax(180px, 1fr) minmax(150px, 220px)"
      gap="2"
      alignItems="start"
      py="1.5"
      borderBottomWidth="1px"
      borderColor="hair"
    >
      <chakra.span aria-hidden="true" fontFamily="mono" color={f.level === "stops" ? "loss" : "quiet"} pt="1">
        {mark(f)}
      </chakra.span>
      <chakra.label htmlFor={id} pt="1">
        {nameOf(f.field)}
        {f.need && (
          <Quiet fontSize="12px" ml="1.5">
            {f.need}
          </Quiet>
        )}
      </chakra.label>
      <div>
        {f.field === "description" && tags && tags.length > 0 ? (
          <Suspense fallback={<chakra.div h="150px" />}>
            <RichText
              id={id}
              label={nameOf(f.field)}
              describedBy={`${id}w`}
              wrong={f.level === "stops"}
              tags={tags}
              texts={texts ?? []}
              value={value}
              onType={onType}
              onKeep={keep}
              onDrop={onDrop}
            />
          </Suspense>
        ) : f.field === "description" ? (
          <chakra.textarea
            {...box}
            rows={5}
            w="100%"
            p="2"
            bg="panel"
            borderWidth="1px"
            borderColor={f.level === "stops" ? "loss" : "hair"}
            rounded="4px"
          />
        ) : (
          <Input {...box} w="100%" h="30px" list={f.asked?.values ? `${id}l` : undefined} />
        )}
        {f.asked?.values && (
          <datalist id={`${id}l`}>
            {f.asked.values.map((v) => (
              <option key={v} value={v} />
            ))}
          </datalist>
        )}
        <chakra.div id={`${id}w`} fontSize="12.5px" color={f.level === "stops" ? "loss" : "quiet"}>
          {[f.words, f.sent && !f.words && `sent as ${f.sent}`, askedWords(f)].filter(Boolean).join(" · ")}
        </chakra.div>
        {value === "" && proposals && proposals.length > 0 && (
          <chakra.div display="flex" flexWrap="wrap" gap="1" mt="1" alignItems="center">
            <Quiet fontSize="12.5px">perhaps</Quiet>
            {proposals.map((p) => (
              <Button key={p.value} size="small" title={p.why} onClick={() => onKeep(p.value)}>
                {p.value}
                <Quiet ml="1">{p.why}</Quiet>
              </Button>
            ))}
          </chakra.div>
        )}
        {f.field === "description" && !(tags && tags.length > 0) && texts && texts.length > 0 && (
          <chakra.div display="flex" flexWrap="wrap" gap="1" mt="1">
            {texts.map((t) => (
              <Button
                key={t.name}
                size="small"
                onClick={() => onKeep([value.trim(), t.text.trim()].filter(Boolean).join("\n"))}
              >
                Put in: {t.name}
              </Button>
            ))}
          </chakra.div>
        )}
        {besides}
        {proposed && proposed.length > 0 && (
          <chakra.div display="flex" flexWrap="wrap" gap="1" mt="1" alignItems="center">
            <Quiet fontSize="12.5px">perhaps</Quiet>
            {proposed.map((w) => (
              <Button
                key={w}
                size="small"
                aria-label={`Add ${w}`}
                onClick={() => onKeep([value, w].filter(Boolean).join(", "))}
              >
                {w}
              </Button>
            ))}
          </chakra.div>
        )}
      </div>
      <chakra.div fontSize="12.5px" color="quiet" pt="1.5">
        {fromWords(f)}
        {f.theirs && (
          <chakra.span display="block" color="ink" title={f.theirs.before ? `It was ${f.theirs.before}` : undefined}>
            since then the supplier says: {f.theirs.after || "nothing"}
          </chakra.span>
        )}
        {f.from === "person" && (
          <Button
            look="plain"
            size="small"
            title={f.without ? `Then it is ${f.without}` : "Then nothing stands there"}
            onClick={() => onKeep("")}
          >
            {f.theirs ? "Take theirs" : "Take mine back"}
          </Button>
        )}
      </chakra.div>
    </chakra.div>
  );
}
