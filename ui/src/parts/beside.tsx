import { chakra } from "@chakra-ui/react";
import type { KeyboardEvent, ReactNode } from "react";
import type { FieldValues, UseFormReturn } from "react-hook-form";
import { Form } from "./form";
import { useKeys } from "./keys";
import { Working } from "./working";

type BesideProps<V extends FieldValues> = {
  form: UseFormReturn<V>;
  label: string;
  error: unknown;
  onKeep: () => void;
  onClose: () => void;
  would: ReactNode;
  children: ReactNode;
};

/** lookedAt: Enter in a field has it looked at, and keeps nothing; the button does. */
const lookedAt = (e: KeyboardEvent<HTMLFormElement>) => {
  if (e.key === "Enter" && e.target instanceof HTMLInputElement) e.preventDefault();
};

/** Beside is a form of something to keep, with what would come of it at its right. Esc leaves it. */
export function Beside<V extends FieldValues>({
  form,
  label,
  error,
  onKeep,
  onClose,
  would,
  children,
}: BesideProps<V>) {
  useKeys({ Escape: onClose }, true, [["Esc", "leave it as it was"]]);
  return (
    <chakra.div
      display="grid"
      gridTemplateColumns={{ base: "minmax(0, 1fr) 390px", xl: "minmax(0, 1fr) 470px" }}
      gap="6"
      flex="1"
      minH="0"
      pt="2"
    >
      <Form form={form} label={label} error={error} onSubmit={onKeep} onKeyDown={lookedAt} focus overflowY="auto">
        {children}
      </Form>
      {would}
    </chakra.div>
  );
}

type WouldProps = { busy: boolean; wrong: boolean; children: ReactNode };

/** Would is what keeping it would do; pale while something written can't be read. */
export function Would({ busy, wrong, children }: WouldProps) {
  return (
    <chakra.aside
      aria-label="What it would do"
      aria-busy={busy}
      borderLeftWidth="1px"
      borderColor="hair"
      pl="5"
      overflowY="auto"
      tabIndex={0}
      opacity={wrong ? 0.45 : 1}
    >
      <chakra.h2 fontWeight="700" fontSize="14.5px">
        What it would do <Working on={busy} />
      </chakra.h2>
      {children}
    </chakra.aside>
  );
}
