import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useFieldArray, useFormContext, useWatch } from "react-hook-form";
import { ifMatch, type Schemas } from "../../api/client";
import { updateFees } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Input, Key, Quiet, Select } from "../../parts/controls";
import { DayInput } from "../../parts/day";
import { Form, useKeep, Wrong } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { day, shifted } from "../../parts/when";
import { bases, clean, type Draft, type Fee, type FeeRow, type Written } from "./schedule";
import { WarehouseEditor } from "./warehouse";

type EditorProps = { site: Schemas["SiteView"]; begin: Draft; versions: FeeRow[]; onClose: () => void };

/** FeeEditor writes a new version of a category's schedule, from a day on. */
export function FeeEditor({ site, begin, versions, onClose }: EditorProps) {
  const { data: clock } = useClock();
  const tomorrow = clock ? shifted(clock.now.slice(0, 10), 1) : "";
  // A version of the same day is written over only as it was when this was opened.
  const [known] = useState(() => new Map(versions.map((v) => [v.starts_on, v.version])));
  const from = (s: Written) => s.starts_on || tomorrow;
  const keep = useKeep<Written, unknown>({
    values: { ...begin.exact, starts_on: "" },
    keep: (s, version) =>
      updateFees({
        path: { id: site.id },
        header: ifMatch(version ?? known.get(from(s))),
        body: clean({ ...s, starts_on: from(s) }) as never,
      }),
    done: onClose,
  });
  const { control, setValue } = keep.form;
  const fees = useFieldArray({ control, name: "fees" });
  const [startsOn, warehouse] = useWatch({ control, name: ["starts_on", "warehouse"] });
  const start = startsOn || tomorrow;
  useKeys({ Escape: onClose }, true, [["Esc", "leave the fees as they are"]]);
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="New version of the fees" focus>
      <chakra.div display="flex" gap="3" alignItems="center" mb="2">
        <chakra.h2 fontWeight="700" fontSize="15.5px">
          {begin.name}
        </chakra.h2>
        <chakra.label display="flex" gap="2" alignItems="center">
          from
          <DayInput name="starts_on" hint={tomorrow} h="32px" />
        </chakra.label>
        <Quiet>
          {/^\d{4}-\d{2}-\d{2}$/.test(start) && `${day(start)} on; `}amounts in {site.currency}
        </Quiet>
      </chakra.div>
      <Wrong of={["starts_on", "category"]} />
      {fees.fields.map((f, i) => (
        <FeeForm key={f.id} at={i} onDrop={() => fees.remove(i)} />
      ))}
      {warehouse && <WarehouseEditor onDrop={() => setValue("warehouse", undefined, { shouldDirty: true })} />}
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="3" borderTopWidth="1px" borderColor="hair">
        <Button size="small" onClick={() => fees.append({ name: "fee", of: "item", rate: "0%" })}>
          Another fee
        </Button>
        {!warehouse && (
          <Button
            size="small"
            onClick={() =>
              setValue("warehouse", { name: "warehouse", steps: [{ name: "small", fee: "" }] }, { shouldDirty: true })
            }
          >
            The warehouse's fees
          </Button>
        )}
        <chakra.div flex="1" />
        <Button onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
        <Button look="main" type="submit" disabled={keep.busy}>
          Keep this version
        </Button>
      </chakra.div>
    </Form>
  );
}

/** FeeForm is one fee: its rate, or its bands, and what is asked besides. */
function FeeForm({ at, onDrop }: { at: number; onDrop: () => void }) {
  const { control, register, getValues, setValue } = useFormContext<Written>();
  const name = `fees.${at}` as const;
  const bands = useFieldArray({ control, name: `${name}.bands` });
  const banding = useWatch({ control, name: `${name}.banding` });
  const figure = (label: string, field: `fees.${number}.${keyof Fee & string}` | Band) => (
    <chakra.label display="inline-flex" gap="1.5" alignItems="center">
      {label}
      <Input figures h="28px" w="76px" placeholder="none" {...register(field as `${typeof name}.rate`)} />
    </chakra.label>
  );
  // What was written of rates stays at hand whichever way it is banded.
  const reband = (to: string) => {
    const rate = getValues(`${name}.rate`) || getValues(`${name}.bands.0.rate`) || "10%";
    if (!to) {
      setValue(`${name}.rate`, rate);
      bands.replace([]);
    } else if (bands.fields.length === 0) bands.replace([{ to: "50.00", rate }, { rate }]);
  };
  const last = bands.fields.length - 1;
  return (
    <chakra.div borderTopWidth="1px" borderColor="hair" py="2">
      <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
        <Input w="124px" h="28px" aria-label={`Name of fee ${at + 1}`} {...register(`${name}.name`)} />
        {last < 0 && figure("rate", `${name}.rate`)}
        <Select maxW="150px" aria-label={`Fee ${at + 1} is of`} {...register(`${name}.of`)}>
          {Object.entries(bases).map(([k, words]) => (
            <option key={k} value={k}>
              {words}
            </option>
          ))}
        </Select>
        <Select
          maxW="130px"
          aria-label={`Bands of fee ${at + 1}`}
          {...register(`${name}.banding`, { onChange: (e) => reband(e.target.value) })}
        >
          <option value="">one rate</option>
          <option value="slices">bands, each slice at its own</option>
          <option value="whole">bands, all at the one it falls in</option>
        </Select>
        <chakra.div flex="1" />
        <Button size="small" look="plain" aria-label={`Without fee ${at + 1}`} onClick={onDrop}>
          ×
        </Button>
      </chakra.div>
      {bands.fields.map((b, j) => (
        <chakra.div key={b.id} display="flex" gap="2" alignItems="center" pl="6" pt="1">
          {j < last ? figure("up to", `${name}.bands.${j}.to`) : <Quiet w="124px">above that</Quiet>}
          {figure("rate", `${name}.bands.${j}.rate`)}
          {banding === "whole" && figure("and", `${name}.bands.${j}.fixed`)}
          {last > 0 && (
            <Button size="small" look="plain" aria-label={`Without band ${j + 1}`} onClick={() => bands.remove(j)}>
              ×
            </Button>
          )}
          {j === last && (
            <Button
              size="small"
              onClick={() => bands.insert(last, { to: "", rate: getValues(`${name}.bands.${last}.rate`) ?? "" })}
            >
              Another band
            </Button>
          )}
        </chakra.div>
      ))}
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap" pt="1">
        {figure("fixed", `${name}.fixed`)}
        {figure("at least", `${name}.least`)}
        {figure("at most", `${name}.most`)}
        {figure("tax on it", `${name}.tax`)}
      </chakra.div>
      <Wrong of={[name]} />
    </chakra.div>
  );
}

type Band = `fees.${number}.bands.${number}.${"to" | "rate" | "fixed"}`;
