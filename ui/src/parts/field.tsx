import { chakra } from "@chakra-ui/react";
import { type ReactNode, useEffect, useRef } from "react";
import { Problem } from "../api/client";
import { Input } from "./controls";

/** faults are what the server says of each field; the rest of an error is said once. */
export function faults(error: unknown): { of: (...fields: string[]) => string | undefined; rest: unknown } {
  const fields = error instanceof Problem ? error.fields : {};
  return {
    of: (...names) =>
      Object.entries(fields).find(([k]) =>
        names.some((n) => k === n || k.startsWith(`${n}[`) || k.startsWith(`${n}.`)),
      )?.[1],
    // A fault of the whole body stands at no field.
    rest: error && Object.keys(fields).every((k) => k === "body") ? error : null,
  };
}

/** Fault is what is wrong with a field, right below it. */
export function Fault({ children }: { children?: ReactNode }) {
  return children ? (
    <chakra.div role="alert" color="loss" fontSize="12.5px" mt="1">
      {children}
    </chakra.div>
  ) : null;
}

/** useFirstField puts the first field of a form in hand as the form opens. */
export function useFirstField() {
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => form.current?.querySelector<HTMLElement>("input:enabled, select:enabled")?.focus(), []);
  return form;
}

type FieldProps = {
  label: string;
  value: string;
  set: (v: string) => void;
  hint?: string; // what holds while nothing is typed
  unit?: string;
  fault?: string;
  w?: string;
};

/** Field is one figure to type: what holds stands in it in grey until something is typed. */
export function Field({ label, value, set, hint, unit, fault, w = "104px" }: FieldProps) {
  return (
    <chakra.div py="0.5">
      <chakra.label display="flex" gap="2" alignItems="center">
        <chakra.span flex="1" minW="0">
          {label}
        </chakra.span>
        <Input
          figures
          h="28px"
          w={w}
          value={value}
          placeholder={hint}
          aria-invalid={!!fault}
          onChange={(e) => set(e.target.value)}
        />
        <chakra.span w="34px" color="quiet" fontSize="12.5px">
          {unit}
        </chakra.span>
      </chakra.label>
      <Fault>{fault}</Fault>
    </chakra.div>
  );
}
