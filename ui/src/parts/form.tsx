import { chakra, Field } from "@chakra-ui/react";
import { type ReactNode, useEffect, useRef, useState } from "react";
import {
  Controller,
  type DefaultValues,
  type FieldErrors,
  type FieldValues,
  FormProvider,
  get,
  type Path,
  type UseFormReturn,
  useForm,
  useFormContext,
} from "react-hook-form";
import { Problem } from "../api/client";
import { useDo } from "../api/queries";
import { Clash, isClash } from "./clash";
import { Input, Select, Trouble } from "./controls";
import { Fault } from "./fault";

/** dotted is a field's name as forms have it: rule.aims[0].value is rule.aims.0.value. */
const dotted = (name: string) => name.replace(/\[(\d+)\]/g, ".$1");

/** useServerFaults puts what the server says of each field at the field. What
 * belongs to no field is given back, to be said once. */
export function useServerFaults<V extends FieldValues>(form: UseFormReturn<V>, error: unknown): unknown {
  const { clearErrors, setError } = form;
  const fields = error instanceof Problem ? error.fields : {};
  useEffect(() => {
    if (error === undefined) return; // the form is asked nothing
    clearErrors();
    if (!(error instanceof Problem)) return;
    for (const [name, message] of Object.entries(error.fields))
      if (name !== "body") setError(dotted(name) as Path<V>, { type: "server", message });
  }, [error, clearErrors, setError]);
  return error && Object.keys(fields).every((k) => k === "body") ? error : null;
}

/** said is the first thing that is said of a field or of what is in it. */
function said(e: unknown): string | undefined {
  if (!e || typeof e !== "object") return undefined;
  if ("message" in e && typeof e.message === "string" && e.message) return e.message;
  if ("ref" in e) return undefined; // a field without words; behind its ref is all of the page
  for (const v of Object.values(e)) {
    const words = said(v);
    if (words) return words;
  }
  return undefined;
}

/** faultOf is what is wrong with any of some fields. */
export function faultOf(errors: FieldErrors, ...names: string[]): string | undefined {
  for (const n of names) {
    const words = said(get(errors, n));
    if (words) return words;
  }
  return undefined;
}

/** useFault is what is wrong with any of some fields of the form around. */
export const useFault = (...names: string[]) => faultOf(useFormContext().formState.errors, ...names);

/** Wrong says what is wrong with fields of the form around. */
export function Wrong({ of }: { of: string[] }) {
  return <Fault>{useFault(...of)}</Fault>;
}

type Keep<V extends FieldValues, Out> = {
  values: DefaultValues<V>;
  /** Writes it; a version that is given must be the one that is there still. */
  keep: (values: V, version?: number) => Promise<Out>;
  version?: number; // that is being edited
  written?: (current: unknown) => unknown; // what of the thing, as the server shows it, the form writes
  done?: (out: Out) => void;
};

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** useKeep is a form of something to keep. Until something is typed it shows the
 * thing as it is; what somebody else changes after that is not written over:
 * both versions are shown in `clash`. */
export function useKeep<V extends FieldValues, Out>(o: Keep<V, Out>) {
  const { values, keep, version, written = (x) => x, done } = o;
  const form = useForm<V>({ defaultValues: values });
  const { isDirty } = form.formState;
  const [opened, setOpened] = useState(version);
  if (!isDirty && opened !== version) setOpened(version);
  const shown = useRef(values);
  useEffect(() => {
    if (isDirty || same(shown.current, values)) return;
    shown.current = values;
    form.reset(values);
  });
  const write = useDo((x: { v: V; version?: number }) => keep(x.v, x.version));
  const { isIdle, isPending, reset } = write;
  // What was said of the last try no longer holds once something else is typed.
  useEffect(() => {
    if (!isIdle && !isPending)
      return form.subscribe({ formState: { values: true }, callback: ({ name }) => name && reset() });
  }, [form, isIdle, isPending, reset]);
  const send = (v: V, over = opened) => {
    if (isPending) return;
    write.mutate(
      { v, version: over },
      {
        onSuccess: (out) => {
          if (same(form.getValues(), v)) form.reset(v); // nothing was typed meanwhile
          done?.(out);
        },
      },
    );
  };
  const clash = (
    <Clash
      error={write.error}
      mine={write.variables?.v}
      written={written}
      onMine={(now) => write.variables && send(write.variables.v, now)}
      onTheirs={(theirs) => {
        form.reset({ ...form.getValues(), ...(theirs as V) });
        reset();
      }}
    />
  );
  return {
    form,
    write,
    clash,
    error: isClash(write.error) ? null : write.error,
    submit: form.handleSubmit((v) => send(v)),
    send,
    busy: isPending,
    kept: write.isSuccess,
  };
}

type FormProps<V extends FieldValues> = {
  form: UseFormReturn<V>;
  onSubmit: (e?: React.BaseSyntheticEvent) => void;
  label?: string;
  focus?: boolean; // the first field is in hand as the form opens
  error?: unknown; // goes to the fields it is of; the rest of it is said once, below
  children: ReactNode;
} & React.ComponentProps<typeof chakra.form>;

/** Form is a form's frame: its fields find it around them. */
export function Form<V extends FieldValues>({ form, onSubmit, label, focus, error, children, ...more }: FormProps<V>) {
  const rest = useServerFaults(form, error);
  const box = useRef<HTMLFormElement>(null);
  useEffect(() => {
    if (focus) box.current?.querySelector<HTMLElement>("input:enabled, select:enabled, textarea")?.focus();
  }, [focus]);
  return (
    <FormProvider {...form}>
      <chakra.form ref={box} aria-label={label} noValidate onSubmit={onSubmit} {...more}>
        {children}
        <Trouble error={rest} />
      </chakra.form>
    </FormProvider>
  );
}

type LineProps = { label: ReactNode; faults?: string[]; unit?: ReactNode; upright?: boolean; children: ReactNode };

/** Line is one field with its label beside it, or above it where upright; what
 * is wrong with it stands below. */
export function Line({ label, faults = [], unit, upright, children }: LineProps) {
  const fault = useFault(...faults);
  return (
    <Field.Root orientation={upright ? "vertical" : "horizontal"} invalid={!!fault}>
      <Field.Label>{label}</Field.Label>
      <chakra.span display="flex" gap="2" alignItems="center" minW="0">
        {children}
        {unit !== undefined && (
          <chakra.span minW="34px" color="quiet" fontSize="12.5px">
            {unit}
          </chakra.span>
        )}
      </chakra.span>
      <Field.ErrorText>{fault}</Field.ErrorText>
    </Field.Root>
  );
}

type TextProps = {
  name: string;
  label: ReactNode;
  unit?: ReactNode;
  hint?: string; // what holds while nothing is typed
  w?: string;
  figures?: boolean;
  upright?: boolean;
  secret?: boolean;
  faults?: string[]; // where the server calls it otherwise
  upper?: boolean; // written in capitals, as codes are
  fixed?: boolean; // only read: who looks at it may not change it
};

/** Text is one field to type into: what holds stands in it in grey until something is typed. */
export function Text({ name, label, unit, hint, w, figures, upright, secret, faults, upper, fixed }: TextProps) {
  const { register } = useFormContext();
  return (
    <Line label={label} unit={unit} upright={upright} faults={faults ?? [name]}>
      <Input
        h={upright ? undefined : "28px"}
        w={w ?? (upright ? "100%" : "104px")}
        figures={figures}
        type={secret ? "password" : "text"}
        autoComplete="off"
        placeholder={hint}
        readOnly={fixed}
        textTransform={upper ? "uppercase" : undefined}
        {...register(name, upper ? { setValueAs: (v: string) => v?.toUpperCase() } : undefined)}
      />
    </Line>
  );
}

/** Figure is an amount or a rate to type, right-aligned. */
export const Figure = (p: TextProps) => <Text {...p} figures />;

type WholeProps = {
  name: string;
  "aria-label"?: string;
  w?: string;
  px?: string;
  placeholder?: string;
  empty?: boolean;
};

/** WholeInput takes digits alone; undefined, or 0, where nothing stands in it. */
export function WholeInput({ name, empty, ...rest }: WholeProps) {
  const { control } = useFormContext();
  return (
    <Controller
      name={name}
      control={control}
      render={({ field: { ref, value, onChange, onBlur } }) => (
        <Input
          ref={ref}
          figures
          h="28px"
          inputMode="numeric"
          value={value || !empty ? String(value ?? "") : ""}
          onBlur={onBlur}
          onChange={(e) =>
            /^\d*$/.test(e.target.value) &&
            onChange(empty ? Number(e.target.value) || undefined : Number(e.target.value))
          }
          {...rest}
        />
      )}
    />
  );
}

/** Whole is a whole number with its label. */
export function Whole({ name, label, unit, w = "104px", hint }: TextProps) {
  return (
    <Line label={label} unit={unit} faults={[name]}>
      <WholeInput name={name} w={w} placeholder={hint} />
    </Line>
  );
}

type ChooseProps = { name: string; label: ReactNode; options: [string, string][]; w?: string };

/** Choose is one of a few. */
export function Choose({ name, label, options, w = "168px" }: ChooseProps) {
  const { register } = useFormContext();
  return (
    <Line label={label} faults={[name]}>
      <Select h="28px" w={w} {...register(name)}>
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </Select>
    </Line>
  );
}

/** Tick is yes or no. */
export function Tick({ name, label }: { name: string; label: ReactNode }) {
  const { register } = useFormContext();
  return (
    <chakra.label display="flex" gap="2" alignItems="center" minH="24px" py="0.5">
      <input type="checkbox" {...register(name)} /> {label}
    </chakra.label>
  );
}
