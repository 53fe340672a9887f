import { chakra } from "@chakra-ui/react";
import { useId, useState } from "react";
import { checkPreparationOverrides, useOverridePreparations } from "../../api/operations";
import { useAnswer } from "../../api/queries";
import { Button, Code, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { several, usePrepared } from "./queries";
import { nameOf } from "./words";

type Props = { field: string; fields: string[]; ids: number[]; onDone: () => void };

/** SameOfAll says one thing of many listings at once, after a look at each. */
export function SameOfAll({ field: first, fields, ids, onDone }: Props) {
  const [field, setField] = useState(first || fields[0] || "");
  const [value, setValue] = useState("");
  const id = useId();
  const { data: one } = usePrepared(ids[0]); // what is asked is seen on the first
  const asked = one?.fields.find((f) => f.field === field)?.asked;
  const body = { ids, say: [{ field, values: several(field, value) }] };
  const look = useAnswer(
    ["prepare", "same", ids, field, value],
    (signal) => checkPreparationOverrides({ body }, signal),
    value !== "" && field !== "",
  );
  const keep = useOverridePreparations(() => ({ body }));
  const better = look.data?.filter((o) => o.after < o.before) ?? [];
  const done = look.data?.filter((o) => o.after === 0) ?? [];
  return (
    <chakra.form
      display="flex"
      flexDirection="column"
      gap="3"
      minH="0"
      onSubmit={(e) => {
        e.preventDefault();
        if (value && !keep.isPending) keep.mutate(undefined, { onSuccess: onDone });
      }}
    >
      <chakra.h2 fontWeight="700" fontSize="15px">
        The same of {ids.length} {ids.length === 1 ? "listing" : "listings"}
      </chakra.h2>
      <chakra.label htmlFor={`${id}f`} display="block">
        <chakra.span display="block">What</chakra.span>
        <Select id={`${id}f`} value={field} onChange={(e) => setField(e.currentTarget.value)}>
          {[...new Set([field, ...fields])].filter(Boolean).map((f) => (
            <option key={f} value={f}>
              {nameOf(f)}
            </option>
          ))}
        </Select>
      </chakra.label>
      <chakra.label htmlFor={`${id}v`} display="block">
        <chakra.span display="block">Is</chakra.span>
        <Input
          id={`${id}v`}
          w="100%"
          value={value}
          list={`${id}l`}
          autoFocus
          onChange={(e) => setValue(e.target.value)}
          placeholder={asked?.values ? "Choose or type" : ""}
        />
        <datalist id={`${id}l`}>
          {asked?.values?.map((v) => (
            <option key={v} value={v} />
          ))}
        </datalist>
      </chakra.label>
      {field === "title.parts" && one && (
        <Quiet fontSize="12.5px">
          In their order, parted by commas: {[...one.parts.map((p) => p.name), ...one.more_parts].join(", ")}.
        </Quiet>
      )}
      <Trouble error={look.error ?? keep.error} />
      {look.data && (
        <>
          <div>
            {better.length} of {look.data.length} come nearer; {done.length} lack nothing then.
          </div>
          <chakra.ul overflowY="auto" flex="1" minH="0" listStyleType="none">
            {look.data.slice(0, 200).map((o) => (
              <chakra.li key={o.id} py="1" borderBottomWidth="1px" borderColor="hair">
                <chakra.div truncate>{o.title || o.sku}</chakra.div>
                <Quiet fontSize="12px">
                  <Code>
                    {o.before} → {o.after}
                  </Code>{" "}
                  {o.words}
                </Quiet>
              </chakra.li>
            ))}
          </chakra.ul>
        </>
      )}
      <Button type="submit" look="main" disabled={!value || keep.isPending}>
        Keep it for {ids.length}
      </Button>
    </chakra.form>
  );
}
