import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { createSourcesFromList, weighCandidates } from "../../api/operations";
import { useDo, useSources } from "../../api/queries";
import { Button, Input, Key, Quiet, Trouble } from "../../parts/controls";
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
          if (t.set_aside === 0) onDone();
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
          {take.data && take.data.set_aside > 0 && (
            <chakra.p role="status">
              {take.data.rows - take.data.set_aside} are being weighed; {take.data.set_aside} could not be read.{" "}
              <Link to={`/sources/feeds/${take.data.feed_id}`}>
                <chakra.span color="accent" textDecoration="underline">
                  See why, and mend them
                </chakra.span>
              </Link>
            </chakra.p>
          )}
        </chakra.form>
      </Panel>
    </chakra.div>
  );
}
