import { useFormContext, useWatch } from "react-hook-form";
import { Select } from "../../parts/controls";
import { Line, Text } from "../../parts/form";

/** CostsTax asks whether a supplier's costs have tax in them, and at which rate. Until it is said,
 * nothing of theirs is priced. */
export function CostsTax({ upright }: { upright?: boolean }) {
  const { register, control } = useFormContext<{ tax: string; tax_rate: string }>();
  const way = useWatch({ control, name: "tax" });
  return (
    <>
      <Line upright={upright} label="Tax in their costs" faults={["tax"]}>
        <Select h={upright ? undefined : "28px"} w={upright ? "190px" : "168px"} {...register("tax")}>
          <option value="" disabled>
            choose…
          </option>
          <option value="without">none</option>
          <option value="got back">in them, I get it back</option>
          <option value="kept">in them, stays my cost</option>
        </Select>
      </Line>
      {(way === "got back" || way === "kept") && (
        <Text upright={upright} figures name="tax_rate" label="at, %" w={upright ? "64px" : undefined} />
      )}
    </>
  );
}

/** saidCosts tells whether what a price needs of a supplier's costs was said. */
export const saidCosts = (x: { charge: string; tax: string; tax_rate: string }) =>
  x.charge.trim() !== "" && x.tax !== "" && (x.tax === "without" || x.tax_rate.trim() !== "");
