import { chakra } from "@chakra-ui/react";
import { type ReactNode, useRef, useState } from "react";
import { Button, Quiet, Trouble } from "./controls";

type Props = {
  title: string;
  more: ReactNode;
  busy: boolean;
  error: Error | null;
  onFile: (file: File) => void;
  children?: ReactNode; // what came of it
};

/** Drop takes one file, dropped on it or chosen. */
export function Drop({ title, more, busy, error, onFile, children }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (x: File | undefined) => x && !busy && onFile(x);
  return (
    <chakra.section
      aria-label={title}
      borderTopWidth="1px"
      borderColor="hair"
      py="2.5"
      bg={over ? "tint" : undefined}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        take(e.dataTransfer.files[0]);
      }}
    >
      <chakra.div display="flex" gap="3" alignItems="center">
        <chakra.div flex="1" minW="0">
          <chakra.h2 fontWeight="700">{title}</chakra.h2>
          <Quiet fontSize="12.5px">{more}</Quiet>
        </chakra.div>
        <input
          ref={file}
          type="file"
          hidden
          data-testid={`file of ${title}`}
          onChange={(e) => {
            take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
        <Button size="small" onClick={() => file.current?.click()} disabled={busy}>
          {busy ? "Looking at it…" : "Drop or choose"}
        </Button>
      </chakra.div>
      <Trouble error={error} />
      {children}
    </chakra.section>
  );
}
