import { Controller, useFormContext } from "react-hook-form";
import { Input } from "./controls";
import { shifted } from "./when";

type DayProps = { name: string; "aria-label"?: string; hint?: string; w?: string; h?: string };

/** DayInput takes a day as ISO 8601 writes it, whatever the browser's own way;
 * the arrow keys go a day on or back. */
export function DayInput({ name, hint = "2026-04-01", w = "116px", h = "28px", ...rest }: DayProps) {
  const { control } = useFormContext();
  return (
    <Controller
      name={name}
      control={control}
      render={({ field }) => (
        <Input
          figures
          w={w}
          h={h}
          maxLength={10}
          placeholder={hint}
          title="Year, month and day, such as 2026-04-01"
          {...field}
          value={field.value ?? ""}
          onChange={(e) => field.onChange(e.target.value.replace(/[^\d-]/g, ""))}
          onKeyDown={(e) => {
            const by = { ArrowUp: 1, ArrowDown: -1 }[e.key];
            if (!by) return;
            e.preventDefault();
            field.onChange(shifted(field.value || (hint === "2026-04-01" ? "" : hint), by));
          }}
          {...rest}
        />
      )}
    />
  );
}
