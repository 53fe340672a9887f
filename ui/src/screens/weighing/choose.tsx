import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Button, Quiet } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { choosable, chosen, usual } from "./columns";
import { heads } from "./words";

type ChooseColumnsProps = { text: string; onChange: (text: string) => void };

/** ChooseColumns says which columns the list shows, and in which order. */
export function ChooseColumns({ text, onChange }: ChooseColumnsProps) {
  const [open, setOpen] = useState(false);
  const on = chosen(text);
  useKeys({ Escape: () => setOpen(false) }, open, [["Esc", "close what is open"]]);
  const put = (names: string[]) => onChange(names.join(",") === usual.join(",") ? "" : names.join(","));
  const move = (at: number, by: number) => {
    const names: string[] = [...on];
    const [name] = names.splice(at, 1);
    names.splice(at + by, 0, name);
    put(names);
  };
  return (
    <chakra.div position="relative">
      <Button size="small" aria-expanded={open} onClick={() => setOpen(!open)}>
        Columns
      </Button>
      {open && (
        <chakra.div
          role="group"
          aria-label="Columns"
          position="absolute"
          right="0"
          top="34px"
          zIndex="10"
          w="272px"
          maxH="440px"
          overflowY="auto"
          bg="panel"
          borderWidth="1px"
          borderColor="hair"
          rounded="5px"
          shadow="md"
          p="2"
        >
          {on.map((name, i) => (
            <chakra.div key={name} display="flex" alignItems="center" gap="1" minH="28px">
              <chakra.label flex="1" display="flex" gap="2" alignItems="center">
                <input
                  type="checkbox"
                  checked
                  disabled={on.length === 1}
                  onChange={() => put(on.filter((n) => n !== name))}
                />
                {heads[name]}
              </chakra.label>
              <Button
                look="plain"
                size="small"
                aria-label={`${heads[name]} further left`}
                disabled={i === 0}
                onClick={() => move(i, -1)}
              >
                ↑
              </Button>
              <Button
                look="plain"
                size="small"
                aria-label={`${heads[name]} further right`}
                disabled={i === on.length - 1}
                onClick={() => move(i, 1)}
              >
                ↓
              </Button>
            </chakra.div>
          ))}
          <Quiet>not shown</Quiet>
          {choosable
            .filter((name) => !on.includes(name))
            .map((name) => (
              <chakra.label key={name} display="flex" gap="2" alignItems="center" minH="28px">
                <input type="checkbox" checked={false} onChange={() => put([...on, name])} />
                {heads[name]}
              </chakra.label>
            ))}
          <Button look="plain" size="small" onClick={() => onChange("")}>
            The usual ones
          </Button>
        </chakra.div>
      )}
    </chakra.div>
  );
}
