import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { createSourcesFromList, weighCandidates } from "../../api/operations";
import { useDo, useSources } from "../../api/queries";
import { Button, Code, Input, Key, Quiet, Trouble } from "../../parts/controls";
import { Panel } from "../../parts/panel";

type PastedListProps = {
  site: Schemas["SiteView"];
  onTaken: (supplier: string) => void;
  onDone: () => void;
};

/** PastedList takes numbers with costs, pasted or dropped, and weighs them. */
export function PastedList({ site, onTaken, onDone }: PastedListProps) {
  const { data: sources } = useSources();
  const [supplier, setSupplier] = useState("");
  const [currency, setCurrency] = useState(site.currency);
  const [text, setText] = useState("");
  const take = useDo(async () => {
    const taken = await createSourcesFromList({ body: { supplier, currency, text } });
    await weighCandidates({ path: { id: site.id }, body: { what: "source", source_id: taken.source_id } });
    return taken;
  });
  const go = () => {
    if (supplier.trim() && text.trim() && !take.isPending)
      take.mutate(undefined, {
        onSuccess: (t) => {
          onTaken(supplier.trim());
          if (t.lines.length === 0) onDone();
        },
      });
  };
  return (
    <chakra.div position="fixed" right="5" top="210px" bottom="4" bg="panel" zIndex="10" display="flex" shadow="md">
      <Panel label="A list of numbers with costs" onClose={onDone}>
        <chakra.form
          display="flex"
          flexDirection="column"
          gap="2"
          pr="4"
          pt="2"
          pb="4"
          onSubmit={(e) => {
            e.preventDefault();
            go();
          }}
          onKeyDown={(e) => {
            if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) go();
          }}
        >
          <chakra.h2 fontSize="15.5px" fontWeight="700" pr="12">
            A list of numbers with costs
          </chakra.h2>
          <chakra.label display="block">
            Whose offer it is
            <Input
              aria-label="Supplier"
              w="100%"
              autoFocus
              list="list-suppliers"
              value={supplier}
              onChange={(e) => setSupplier(e.target.value)}
            />
            <datalist id="list-suppliers">
              {[...new Set(sources?.map((s) => s.supplier))].map((s) => (
                <option key={s}>{s}</option>
              ))}
            </datalist>
          </chakra.label>
          <chakra.label display="block">
            Currency of its costs
            <Input
              aria-label="Currency"
              w="100%"
              maxLength={3}
              value={currency}
              onChange={(e) => setCurrency(e.target.value.toUpperCase())}
            />
          </chakra.label>
          <chakra.label>
            A product number and its cost on each line, and words if there are any
            <chakra.textarea
              aria-label="The list"
              placeholder={"09520001424021 4.20\n09520001424038 11.90 kettle, green"}
              w="100%"
              h="210px"
              p="2"
              rounded="4px"
              borderWidth="1px"
              borderColor="hair"
              bg="paper"
              fontFamily="mono"
              fontSize="12.5px"
              value={text}
              onChange={(e) => setText(e.target.value)}
              onDragOver={(e) => e.preventDefault()}
              onDrop={(e) => {
                const file = e.dataTransfer.files[0];
                if (!file) return;
                e.preventDefault();
                file.text().then(setText);
              }}
            />
          </chakra.label>
          <Quiet>They are looked up and weighed; nothing is listed by that.</Quiet>
          <Button look="main" type="submit" disabled={!supplier.trim() || !text.trim() || take.isPending}>
            Weigh them <Key>Ctrl Enter</Key>
          </Button>
          <Trouble error={take.error} />
          {take.data && take.data.lines.length > 0 && <Said taken={take.data} />}
        </chakra.form>
      </Panel>
    </chakra.div>
  );
}

/** Said accounts for the lines that were not taken, or that can't be looked up by their number. */
function Said({ taken: t }: { taken: Schemas["TakenList"] }) {
  return (
    <chakra.section role="status" aria-label="What became of the lines">
      <p>
        {t.rows - t.set_aside} are being weighed
        {t.names.length > 0 && `, their columns read as ${t.names.filter(Boolean).join(", ")}`}.{" "}
        {t.set_aside > 0 && (
          <Link to={`/sources/feeds/${t.feed_id}`}>
            <chakra.span color="accent" textDecoration="underline">
              Mend the {t.set_aside} that could not be read
            </chakra.span>
          </Link>
        )}
      </p>
      <chakra.table w="100%" fontSize="12.5px" mt="2">
        <tbody>
          {t.lines.map((l) => (
            <chakra.tr key={l.line} borderTopWidth="1px" borderColor="hair" verticalAlign="top">
              <chakra.td pr="2" fontFamily="mono" color="quiet">
                {l.line}
              </chakra.td>
              <chakra.td py="0.5">
                <Code>{l.text}</Code>
                <chakra.div color={l.taken ? undefined : "loss"}>
                  {l.taken ? "taken; " : "not taken: "}
                  {l.why}
                </chakra.div>
              </chakra.td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </chakra.section>
  );
}
