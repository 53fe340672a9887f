import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useListRefusals, useMendRefusals } from "../../api/operations";
import { Button, Code, Input, Quiet, Trouble } from "../../parts/controls";
import { several } from "../preparing/queries";
import { nameOf } from "../preparing/words";
import { MendFile } from "./mends";

type Refused = Schemas["RefusedAlike"];

/** Alike are refusals with the same words, together: chosen at once, or mended by
 * the same word in all, which is offered the next time. */
export function Alike({ onChoose }: { onChoose: (ids: number[]) => void }) {
  const list = useListRefusals();
  const [open, setOpen] = useState<string>();
  const places = new Map(list.data?.filter((r) => r.mendable).map((r) => [r.site_id, r.site]));
  if (!list.data || list.data.length === 0) return <Trouble error={list.error} retry={() => list.refetch()} />;
  return (
    <chakra.section aria-label="Refused alike" pb="3" maxH="45%" overflowY="auto" flexShrink={0}>
      {list.data.map((r) => {
        const key = `${r.site_id} ${r.field} ${r.words}`;
        return (
          <chakra.div key={key} py="1" borderBottomWidth="1px" borderColor="hair">
            <chakra.div display="flex" gap="3" alignItems="center">
              <Code color="ink">{r.listings.length}</Code>
              <Quiet w="130px" truncate>
                {r.site}
              </Quiet>
              {r.field && <b>{nameOf(r.field)}</b>}
              <chakra.span flex="1" truncate title={r.words}>
                {r.words}
              </chakra.span>
              <Button size="small" onClick={() => onChoose(r.listings)}>
                Choose {r.listings.length === 1 ? "it" : "them"}
              </Button>
              {r.mendable ? (
                <Button
                  size="small"
                  aria-expanded={open === key}
                  onClick={() => setOpen(open === key ? undefined : key)}
                >
                  Mend {r.listings.length === 1 ? "it" : "all alike"}
                </Button>
              ) : (
                r.listings.length === 1 && (
                  <Link to={`/prepare/${r.listings[0]}`}>
                    <chakra.span textDecoration="underline">open it</chakra.span>
                  </Link>
                )
              )}
            </chakra.div>
            {open === key && (
              <Mend
                r={r}
                onDone={() => {
                  setOpen(undefined);
                  onChoose(r.listings);
                }}
              />
            )}
          </chakra.div>
        );
      })}
      {[...places].map(([id, name]) => (
        <MendFile key={id} site={id} name={name} onChoose={onChoose} />
      ))}
    </chakra.section>
  );
}

function Mend({ r, onDone }: { r: Refused; onDone: () => void }) {
  const [value, setValue] = useState(r.before.join(" | "));
  const mend = useMendRefusals(() => ({
    body: { site_id: r.site_id, field: r.field, words: r.words, values: several(r.field, value) },
  }));
  return (
    <chakra.form
      display="flex"
      gap="2"
      alignItems="center"
      py="2"
      pl="6"
      onSubmit={(e) => {
        e.preventDefault();
        if (value.trim() && !mend.isPending) mend.mutate(undefined, { onSuccess: onDone });
      }}
    >
      <chakra.label display="flex" gap="2" alignItems="center">
        {nameOf(r.field)} is
        <Input w="300px" h="30px" autoFocus value={value} onChange={(e) => setValue(e.target.value)} />
      </chakra.label>
      {r.before.length > 0 && <Quiet>as it was mended the last time</Quiet>}
      <Button type="submit" look="main" size="small" disabled={!value.trim() || mend.isPending}>
        Say so of {r.listings.length}
      </Button>
      <Trouble error={mend.error} />
    </chakra.form>
  );
}
