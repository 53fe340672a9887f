import { chakra } from "@chakra-ui/react";
import { closestCenter, DndContext, type DragEndEvent } from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext, useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Button, Quiet, Select } from "../../parts/controls";
import { useSortSensors } from "../../parts/sorting";
import type { Prepared } from "./queries";
import { nameOf } from "./words";

type Part = Prepared["parts"][number];
type Props = { l: Prepared; onKeep: (names: string[]) => Promise<unknown> };

/** TitleParts are what a title is made of, in their order: dragged, or taken up
 * by Space and moved by arrows; one is left out or put in for this listing. */
export function TitleParts({ l, onKeep }: Props) {
  const names = l.parts.map((p) => p.name);
  const sensors = useSortSensors();
  const end = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const next = [...names];
    next.splice(names.indexOf(String(over.id)), 0, ...next.splice(names.indexOf(String(active.id)), 1));
    onKeep(next);
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={end}>
      <SortableContext items={names} strategy={horizontalListSortingStrategy}>
        <chakra.div display="flex" gap="2" flexWrap="wrap" mt="2" alignItems="center">
          {l.parts.map((p) => (
            <Chip
              key={p.name}
              p={p}
              only={names.length === 1}
              onDrop={() => onKeep(names.filter((n) => n !== p.name))}
            />
          ))}
          {l.more_parts.length > 0 && (
            <Select
              w="128px"
              h="26px"
              aria-label="Put a part into the title"
              value=""
              onChange={(e) => e.currentTarget.value && onKeep([...names, e.currentTarget.value])}
            >
              <option value="">put in …</option>
              {l.more_parts.map((n) => (
                <option key={n} value={n}>
                  {nameOf(n)}
                </option>
              ))}
            </Select>
          )}
          {l.parts_own && (
            <Button size="small" look="plain" onClick={() => onKeep([])}>
              In the place's order
            </Button>
          )}
        </chakra.div>
      </SortableContext>
    </DndContext>
  );
}

function Chip({ p, only, onDrop }: { p: Part; only: boolean; onDrop: () => void }) {
  const s = useSortable({ id: p.name });
  return (
    <chakra.span
      ref={s.setNodeRef}
      style={{ transform: CSS.Translate.toString(s.transform), transition: s.transition }}
      display="inline-flex"
      alignItems="center"
      borderWidth="1px"
      borderStyle={p.text ? "solid" : "dashed"}
      borderColor={p.left_out ? "loss" : "hair"}
      rounded="4px"
      bg="panel"
      fontSize="12.5px"
    >
      <chakra.button
        {...s.attributes}
        {...s.listeners}
        type="button"
        aria-label={`${nameOf(p.name)}: ${p.text || "none"}${p.left_out ? ", left out, too long" : ""}`}
        px="1.5"
        minH="24px"
        cursor="grab"
      >
        <Quiet>{nameOf(p.name)}</Quiet> {p.text || "none"}
        {p.left_out && <chakra.span color="loss"> · left out, too long</chakra.span>}
      </chakra.button>
      {!only && (
        <chakra.button
          type="button"
          aria-label={`Leave ${nameOf(p.name).toLowerCase()} out`}
          color="quiet"
          minW="24px"
          minH="24px"
          cursor="pointer"
          onClick={onDrop}
        >
          ×
        </chakra.button>
      )}
    </chakra.span>
  );
}
