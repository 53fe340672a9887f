import { chakra } from "@chakra-ui/react";
import { closestCenter, DndContext, type DragEndEvent } from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext, useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useSortSensors } from "../../../parts/sorting";
import { type Choice, type Choosing, lookAt } from "./choice";

type Props = { c: Choosing; title: string; onPick: (i: number) => void };

const idOf = (c: Choice, i: number) => `${c.original} ${i}`;

/** Strip are the chosen pictures in their order: dragged, or moved by keys. */
export function Strip({ c, title, onPick }: Props) {
  const sensors = useSortSensors();
  const ids = c.list.map(idOf);
  const end = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) c.move(ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={end}>
      <SortableContext items={ids} strategy={horizontalListSortingStrategy}>
        <chakra.div role="list" aria-label="The pictures in their order" display="flex" gap="2" flexWrap="wrap">
          {c.list.map((x, i) => (
            <Item
              key={ids[i]}
              id={ids[i]}
              x={x}
              i={i}
              on={i === c.at}
              words={c.asKept(i)?.words ?? ""}
              title={title}
              onPick={onPick}
            />
          ))}
        </chakra.div>
      </SortableContext>
    </DndContext>
  );
}

type ItemProps = {
  id: string;
  x: Choice;
  i: number;
  on: boolean;
  words: string;
  title: string;
  onPick: (i: number) => void;
};

function Item({ id, x, i, on, words, title, onPick }: ItemProps) {
  const s = useSortable({ id });
  return (
    <chakra.div
      role="listitem"
      ref={s.setNodeRef}
      style={{ transform: CSS.Transform.toString(s.transform), transition: s.transition }}
    >
      <chakra.button
        {...s.attributes}
        {...s.listeners}
        type="button"
        aria-label={`Picture ${i + 1} of ${title}${words ? `: ${words}` : ""}`}
        aria-current={on || undefined}
        onClick={() => onPick(i)}
        display="block"
        w="76px"
        p="1"
        rounded="4px"
        borderWidth="2px"
        borderColor={on ? "action" : words ? "loss" : "hair"}
        bg="panel"
        cursor="pointer"
      >
        <chakra.img src={lookAt(x.original, x.recipe)} alt="" w="64px" h="64px" objectFit="contain" draggable={false} />
        <chakra.span fontSize="12px" color={words ? "loss" : "quiet"}>
          {i === 0 ? "leads" : i + 1}
        </chakra.span>
      </chakra.button>
    </chakra.div>
  );
}
