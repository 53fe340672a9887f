import { chakra } from "@chakra-ui/react";
import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useMoveRule } from "../../api/operations";
import { useAddress } from "../../parts/address";
import { Button, Code, Key, Quiet, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { OwnRule } from "./ownrule";
import { useRules } from "./queries";
import { RuleEditor } from "./ruleeditor";
import { fresh } from "./ruleform";

type Site = Schemas["SiteView"];
type Rule = Schemas["NamedRule"];

/** Rules are a site's price rules in the order they are tried: the first that fits a product holds. */
export function Rules({ site }: { site: Site }) {
  const a = useAddress();
  const { data: rules, error } = useRules(site.id);
  const own = Number(a.get("own"));
  const chosen = a.get("rule");
  const [fromSite, fromRule] = a.get("from").split(":").map(Number);
  const { data: others } = useRules(fromSite || undefined);
  const copied = others?.find((r) => r.id === fromRule);
  const blank = copied
    ? { ...copied, id: 0, version: undefined, fits: copied.fits ?? {} }
    : fromSite
      ? undefined
      : fresh(site.currency);
  const rule = chosen === "new" ? blank : rules?.find((r) => String(r.id) === chosen);
  const close = () => a.put({ rule: null, own: null, from: null });
  if (own) return <OwnRule key={own} listing={own} onClose={close} />;
  if (rule && rules)
    return (
      <RuleEditor
        key={chosen}
        site={site}
        rule={rule}
        last={rule.id !== 0 && rule.id === rules.at(-1)?.id}
        onClose={close}
      />
    );
  return (
    <>
      <Trouble error={error} />
      {rules && <List site={site} rules={rules} onOpen={(id) => a.put({ rule: id })} />}
    </>
  );
}

type ListProps = { site: Site; rules: Rule[]; onOpen: (id: string) => void };

/** List is the rules in their order, to be dragged, or moved by keys, into another. */
function List({ site, rules, onOpen }: ListProps) {
  const [at, setAt] = useState(0);
  const move = useMoveRule((x: { id: number; to: number }) => ({ path: { id: x.id }, body: { to: x.to } }));
  const last = rules.length - 1; // holds for all the rest, and stays where it is
  const put = (from: number, to: number) => {
    if (from >= last || to < 0 || to >= last || from === to || move.isPending) return;
    move.mutate({ id: rules[from].id, to });
    setAt(to);
  };
  useKeys(
    {
      ArrowDown: () => setAt(Math.min(at + 1, last)),
      ArrowUp: () => setAt(Math.max(at - 1, 0)),
      Enter: () => onOpen(String(rules[at].id)),
      "+": () => put(at, at + 1),
      "-": () => put(at, at - 1),
      ".": () => onOpen("new"),
    },
    true,
    [
      ["↓ ↑", "the next rule, or the one before"],
      ["Enter", "open it"],
      ["− +", "try it sooner, or later"],
      [".", "add a rule"],
    ],
  );
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, {
      coordinateGetter: sortableKeyboardCoordinates,
      keyboardCodes: { start: ["Space"], end: ["Space", "Enter"], cancel: ["Escape"] }, // Enter opens a rule
    }),
  );
  const place = (id: unknown) => rules.findIndex((r) => r.id === id);
  const dropped = ({ active, over }: DragEndEvent) => over && put(place(active.id), Math.min(place(over.id), last - 1));
  const said = (id: unknown) => rules[place(id)]?.name ?? "The rule";
  return (
    <chakra.section aria-label="Price rules" pt="3" overflowY="auto" maxW="1120px">
      <chakra.div display="flex" alignItems="center" gap="4" mb="3">
        <Quiet flex="1">
          The first rule that fits a product sets its price on {site.name}. A listing with a rule or a price of its own
          is held by none of these.
        </Quiet>
        <Button look="main" onClick={() => onOpen("new")}>
          Add a rule <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={move.error} />
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={dropped}
        accessibility={{
          screenReaderInstructions: {
            draggable: "Space takes the rule up, the arrow keys carry it, Space puts it down and Esc leaves it.",
          },
          announcements: {
            onDragStart: ({ active }) => `${said(active.id)} is taken up.`,
            onDragOver: ({ active, over }) => (over ? `${said(active.id)} is over ${said(over.id)}.` : undefined),
            onDragEnd: ({ active }) => `${said(active.id)} is put down.`,
            onDragCancel: ({ active }) => `${said(active.id)} stays where it was.`,
          },
        }}
      >
        <SortableContext items={rules} strategy={verticalListSortingStrategy}>
          <chakra.ol aria-label="Rules, in the order they are tried">
            {rules.map((r, i) => (
              <Item
                key={r.id}
                rule={r}
                at={i}
                last={last}
                on={at === i}
                busy={move.isPending}
                onOpen={() => onOpen(String(r.id))}
                onMove={(by) => put(i, i + by)}
              />
            ))}
          </chakra.ol>
        </SortableContext>
      </DndContext>
      <Quiet fontSize="12.5px" display="block" pt="3">
        <Key>↑</Key> <Key>↓</Key> go through them, <Key>Enter</Key> opens, <Key>−</Key> and <Key>+</Key> move one sooner
        or later.
      </Quiet>
    </chakra.section>
  );
}

type ItemProps = {
  rule: Rule;
  at: number;
  last: number;
  on: boolean;
  busy: boolean;
  onOpen: () => void;
  onMove: (by: number) => void;
};

function Item({ rule: r, at, last, on, busy, onOpen, onMove }: ItemProps) {
  const fixed = at === last;
  const drag = useSortable({ id: r.id, disabled: fixed });
  const shift = (by: number, words: string, sign: string) => (
    <Button
      size="small"
      look="plain"
      aria-label={`Try ${r.name} ${words}`}
      disabled={at + by < 0 || at + by >= last || busy}
      onClick={() => onMove(by)}
    >
      {sign}
    </Button>
  );
  return (
    <chakra.li
      ref={drag.setNodeRef}
      style={{ transform: CSS.Translate.toString(drag.transform), transition: drag.transition }}
      display="grid"
      gridTemplateColumns="56px minmax(0, 1fr) 130px 88px"
      gap="4"
      alignItems="center"
      px="2"
      py="2.5"
      borderTopWidth="1px"
      borderColor="hair"
      bg={drag.isDragging ? "tint" : on ? "band" : undefined}
      position="relative"
      zIndex={drag.isDragging ? 1 : undefined}
      aria-current={on}
    >
      {fixed ? (
        <Code color="quiet" textAlign="right">
          {at + 1}
        </Code>
      ) : (
        <chakra.button
          type="button"
          {...drag.attributes}
          {...drag.listeners}
          aria-label={`Drag ${r.name} to another place`}
          cursor={drag.isDragging ? "grabbing" : "grab"}
          minH="24px"
          touchAction="none"
          display="flex"
          justifyContent="space-between"
          alignItems="center"
          color="quiet"
        >
          <Grip />
          <Code color="quiet">{at + 1}</Code>
        </chakra.button>
      )}
      <chakra.button type="button" textAlign="left" cursor="pointer" onClick={onOpen}>
        <chakra.span fontWeight="700">{r.name}</chakra.span>
        <chakra.span display="block" color="ink">
          <Quiet>{r.for}:</Quiet> {r.words}
        </chakra.span>
      </chakra.button>
      <chakra.span textAlign="right">
        <Code color="ink">{r.listings ?? 0}</Code> <Quiet>{r.listings === 1 ? "listing" : "listings"}</Quiet>
      </chakra.span>
      <chakra.span textAlign="right">
        {fixed ? (
          <Quiet fontSize="12px">always last</Quiet>
        ) : (
          <>
            {shift(-1, "sooner", "↑")}
            {shift(1, "later", "↓")}
          </>
        )}
      </chakra.span>
    </chakra.li>
  );
}

/** Grip is where a rule is held as it is dragged. */
const Grip = () => (
  <svg width="12" height="12" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="1.5">
    <path d="M1 3h10M1 6h10M1 9h10" />
  </svg>
);
