import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { download, type Schemas } from "../../api/client";
import { useCompleteTask, useListTasks } from "../../api/operations";
import { useClock, useDo } from "../../api/queries";
import { Button, Code, Empty, Input, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { time } from "../../parts/when";

type Task = Schemas["Task"];

const kinds = { "take off": "take it off", change: "change it", new: "put it up" };

/** Desk is where a person does, task by task, what no gateway and no sheet does:
 * each field is copied by key, in the order of the place's form. */
export function Desk() {
  const list = useListTasks();
  const { data: clock } = useClock();
  const [key, setKey] = useState("");
  const tasks = list.data ?? [];
  const at = Math.max(
    tasks.findIndex((t) => t.key === key),
    0,
  );
  const open = tasks[at];
  const go = (by: number) => setKey(tasks[Math.min(Math.max(at + by, 0), tasks.length - 1)]?.key ?? "");
  useKeys({ ArrowDown: () => go(1), ArrowUp: () => go(-1) }, tasks.length > 1, [["↑ ↓", "another task"]]);
  if (list.data?.length === 0)
    return (
      <Empty title="Nothing is to be done by hand">
        What you send to a place that has neither a gateway nor a sheet is done here, task by task.
      </Empty>
    );
  return (
    <>
      <Trouble error={list.error} retry={() => list.refetch()} />
      <chakra.div display="flex" gap="5" flex="1" minH="0" pt="2">
        <chakra.nav aria-label="Tasks" w="340px" flexShrink={0} overflowY="auto">
          {tasks.map((t) => (
            <chakra.button
              key={t.key}
              type="button"
              aria-pressed={t.key === open?.key}
              onClick={() => setKey(t.key)}
              display="block"
              w="100%"
              textAlign="left"
              px="2"
              py="1.5"
              rounded="4px"
              cursor="pointer"
              bg={t.key === open?.key ? "band" : undefined}
              _hover={{ bg: "band" }}
            >
              <chakra.span display="flex" gap="2" alignItems="center">
                <Word tone={t.kind === "take off" ? "bad" : undefined}>{kinds[t.kind]}</Word>
                <chakra.span truncate flex="1">
                  {t.title}
                </chakra.span>
              </chakra.span>
              <Quiet fontSize="12.5px">
                {t.site} · since {time(t.since ?? "", clock?.now)}
                {t.overdue && <chakra.span color="loss"> · late</chakra.span>}
              </Quiet>
            </chakra.button>
          ))}
        </chakra.nav>
        {open && <One key={open.key} task={open} onDone={() => setKey(tasks[at + 1]?.key ?? "")} />}
      </chakra.div>
    </>
  );
}

function One({ task: t, onDone }: { task: Task; onDone: () => void }) {
  const [copied, setCopied] = useState<string[]>([]);
  const [page, setPage] = useState("");
  const [failed, setFailed] = useState<string>();
  const next = t.fields.find((f) => !copied.includes(f.name));
  const copy = useDo((f: Schemas["TaskField"]) =>
    navigator.clipboard.writeText(f.value).then(() => setCopied((old) => [...new Set([...old, f.name])])),
  );
  const pictures = useDo(() =>
    download(`/api/v1/tasks/${encodeURIComponent(t.key)}/pictures.zip`, `${t.sku}-pictures.zip`),
  );
  const done = useCompleteTask(() => ({
    body: { key: t.key, page: page.trim() || undefined, failed: failed?.trim() || undefined },
  }));
  const tell = () => done.mutate(undefined, { onSuccess: onDone });
  const say = () => !t.stale && !done.isPending && tell(); // by key: never what shouldn't be done any more
  useKeys(
    { c: () => next && copy.mutate(next), p: () => t.pictures > 0 && pictures.mutate(undefined), ".": say },
    true,
    [
      ["c", "copy the next field"],
      ["p", "the pictures, as a zip"],
      [".", "it is done; the next task"],
    ],
  );
  return (
    <chakra.section aria-label={t.title} flex="1" minW="0" overflowY="auto">
      <chakra.div display="flex" gap="3" alignItems="center" pb="2">
        <chakra.h2 fontWeight="700" fontSize="15.5px" flex="1" truncate>
          {t.title}
        </chakra.h2>
        <Code>{t.sku}</Code>
        {t.page && (
          <a href={t.page} target="_blank" rel="noreferrer">
            <chakra.span textDecoration="underline">its page at {t.site}</chakra.span>
          </a>
        )}
      </chakra.div>
      {t.overdue && t.kind !== "new" && (
        <chakra.div role="alert" color="loss" pb="1" fontWeight="600">
          It waits longer than it may: what is on sale there may be something that can't be had.
        </chakra.div>
      )}
      {t.stale && (
        <chakra.div role="alert" color="loss" pb="1">
          Don't do it so any more: {t.stale}. If you had done it already, say so: what is right now follows. Otherwise
          give its send-out up under Send-outs.
        </chakra.div>
      )}
      <chakra.table
        w="100%"
        maxW="820px"
        css={{
          "& td": {
            borderBottomWidth: "1px",
            borderColor: "{colors.hair}",
            padding: "5px 8px 5px 0",
            verticalAlign: "top",
          },
        }}
      >
        <tbody>
          {t.fields.map((f) => (
            <tr key={f.name}>
              <chakra.td w="150px" fontWeight="600">
                {f.name}
              </chakra.td>
              <chakra.td whiteSpace="pre-wrap" fontSize="15px">
                {f.value}
              </chakra.td>
              <chakra.td w="130px" textAlign="right">
                <Button size="small" title={`Copy ${f.name}`} onClick={() => copy.mutate(f)}>
                  {copied.includes(f.name) ? "✓ copied" : "Copy"} {f === next && <Key>c</Key>}
                </Button>
              </chakra.td>
            </tr>
          ))}
        </tbody>
      </chakra.table>
      <chakra.div display="flex" gap="2" alignItems="center" pt="3" flexWrap="wrap">
        {t.pictures > 0 && (
          <Button disabled={pictures.isPending} onClick={() => pictures.mutate(undefined)}>
            {t.pictures === 1 ? "Its picture" : `Its ${t.pictures} pictures`}, numbered <Key>p</Key>
          </Button>
        )}
        {t.kind === "new" && (
          <Input
            w="300px"
            h="32px"
            aria-label="The address of its page there"
            placeholder="the address of its page there"
            value={page}
            onChange={(e) => setPage(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && say()}
          />
        )}
        {t.stale && failed === undefined ? (
          <Button disabled={done.isPending} onClick={tell}>
            I had done it already
          </Button>
        ) : (
          <Button look="main" disabled={!!t.stale || done.isPending} onClick={say}>
            {failed === undefined ? "It is done" : "They don't take it"} <Key>.</Key>
          </Button>
        )}
        {failed === undefined ? (
          <Button look="plain" onClick={() => setFailed("")}>
            They don't take it
          </Button>
        ) : (
          <Input
            w="260px"
            h="32px"
            autoFocus
            aria-label="Why they don't take it"
            placeholder="why they don't take it"
            value={failed}
            onChange={(e) => setFailed(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter" && failed.trim()) say();
              if (e.key === "Escape") setFailed(undefined);
            }}
          />
        )}
      </chakra.div>
      <Trouble error={copy.error ?? pictures.error ?? done.error} />
    </chakra.section>
  );
}
