import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { inspectMends, useTakeMends } from "../../api/operations";
import { useDo } from "../../api/queries";
import { Button, Code, Key, Quiet, Trouble } from "../../parts/controls";
import { Drop } from "../../parts/drop";
import { useKeys } from "../../parts/keys";
import { nameOf } from "../preparing/words";

type Props = { site: number; name: string; onChoose: (ids: number[]) => void };

/** MendFile takes what was refused to a spreadsheet and back: ours, or the
 * place's own report with its rows mended. */
export function MendFile({ site, name, onChoose }: Props) {
  const [look, setLook] = useState<Schemas["Mends"]>();
  const drop = useDo((f: File) => inspectMends({ path: { id: site }, query: { name: f.name }, body: f }));
  return (
    <Drop
      title={`Mend what ${name} refused in a file`}
      more={
        <>
          Take ours, as{" "}
          {(["csv", "xlsx"] as const).map((kind) => (
            <chakra.a
              key={kind}
              href={`/api/v1/sites/${site}/refusals/export.${kind}`}
              download
              textDecoration="underline"
              color="ink"
              mr="1"
            >
              {kind.toUpperCase()}
            </chakra.a>
          ))}
          or their report; mend the values, and drop it here.
        </>
      }
      busy={drop.isPending}
      error={drop.error}
      onFile={(f) => drop.mutate(f, { onSuccess: setLook })}
    >
      {look && (
        <Looked
          key={look.token}
          look={look}
          site={site}
          onDone={(ids) => {
            setLook(undefined);
            if (ids) onChoose(ids);
          }}
        />
      )}
    </Drop>
  );
}

const most = 50;

/** Looked is what a file would mend, before it is kept. */
function Looked({ look, site, onDone }: { look: Schemas["Mends"]; site: number; onDone: (ids?: number[]) => void }) {
  const take = useTakeMends(() => ({ path: { id: site }, body: { token: look.token } }));
  const n = look.changes.length;
  const keep = () => n > 0 && !take.isPending && take.mutate(undefined, { onSuccess: onDone });
  useKeys({ k: keep }, n > 0, [["k", "keep what the file mends"]]);
  return (
    <chakra.div pt="2" maxH="300px" overflowY="auto">
      <chakra.div display="flex" gap="2" alignItems="center" pb="1">
        <chakra.strong flex="1">
          {n === 0 ? "It says nothing else than what stands here." : `${n} ${n === 1 ? "value" : "values"} mended`}
        </chakra.strong>
        <Button size="small" onClick={() => onDone()}>
          Leave it
        </Button>
        <Button size="small" look="main" disabled={n === 0 || take.isPending} onClick={keep}>
          Keep, and choose them <Key>k</Key>
        </Button>
      </chakra.div>
      <Trouble error={take.error} />
      {look.changes.slice(0, most).map((c) => (
        <chakra.div key={`${c.id} ${c.field}`} display="flex" gap="3" py="0.5" fontSize="13px">
          <Code w="110px">{c.sku}</Code>
          <chakra.b w="130px">{nameOf(c.field)}</chakra.b>
          <chakra.span flex="1" minW="0" truncate title={c.before} color="quiet">
            {c.before || "nothing"}
          </chakra.span>
          <chakra.span flex="1" minW="0" truncate title={c.after}>
            {c.after}
          </chakra.span>
        </chakra.div>
      ))}
      {n > most && <Quiet>and {n - most} more</Quiet>}
      {look.strange.length > 0 && (
        <Quiet display="block">No refused listing has the SKU {look.strange.join(", ")}.</Quiet>
      )}
      {look.unused.length > 0 && <Quiet display="block">Nothing is taken from: {look.unused.join(", ")}.</Quiet>}
    </chakra.div>
  );
}
