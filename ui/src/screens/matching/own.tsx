import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { useAddOwnNumbers, useGetSkuPattern, useSetSkuPattern } from "../../api/operations";
import { Button, Code, FileButton, Head, Input, Quiet, Trouble, Word } from "../../parts/controls";
import { Form } from "../../parts/form";
import { usePool } from "./queries";

/** OwnNumbers is the pool of numbers that the seller bought, and how SKUs are made. */
export function OwnNumbers() {
  return (
    <chakra.div display="grid" gridTemplateColumns="minmax(0, 1fr) minmax(0, 1fr)" gap="8" pt="3" overflowY="auto">
      <Pool />
      <Skus />
    </chakra.div>
  );
}

function Pool() {
  const { data: pool } = usePool();
  const form = useForm({ defaultValues: { numbers: "" } });
  const add = useAddOwnNumbers((numbers: string) => ({ body: { numbers } }));
  return (
    <section aria-label="Own numbers">
      <chakra.h2 fontSize="15.5px" fontWeight="700">
        Numbers of our own
      </chakra.h2>
      <Quiet>
        Bought once, handed out once each to new entries that have none, and given back when they aren't used.
      </Quiet>
      <chakra.div py="2" display="flex" gap="3" alignItems="center">
        <span>
          <Code color="ink">{pool?.free ?? 0}</Code> free, <Code color="ink">{pool?.taken ?? 0}</Code> handed out
        </span>
        {pool?.low && <Word tone="bad">running low</Word>}
      </chakra.div>
      <Form
        form={form}
        label="Add numbers"
        error={add.error}
        onSubmit={form.handleSubmit(({ numbers }) => add.mutate(numbers, { onSuccess: () => form.reset() }))}
      >
        <chakra.textarea
          aria-label="Numbers, one a line"
          placeholder="Paste them here, one a line"
          rows={8}
          w="100%"
          p="2"
          bg="panel"
          borderWidth="1px"
          borderColor="hair"
          rounded="5px"
          fontFamily="mono"
          {...form.register("numbers")}
        />
        <chakra.div display="flex" gap="2" pt="2">
          <Button type="submit" look="main" disabled={add.isPending}>
            Add them
          </Button>
          <FileButton label="Numbers from a file" accept=".csv,.txt,.tsv" onText={(t) => form.setValue("numbers", t)}>
            From a file
          </FileButton>
        </chakra.div>
      </Form>
      {add.data && (
        <chakra.div role="status" pt="2">
          {add.data.added} added{add.data.known > 0 && `, ${add.data.known} were there before`}
          {add.data.bad.length > 0 && `, ${add.data.bad.length} can't be taken:`}
          {add.data.bad.map((b) => (
            <chakra.div key={`${b.line} ${b.number}`}>
              line {b.line}: <Code color="ink">{b.number}</Code> <Quiet>{b.why}</Quiet>
            </chakra.div>
          ))}
        </chakra.div>
      )}
    </section>
  );
}

function Skus() {
  const { data: now } = useGetSkuPattern();
  return (
    <section aria-label="SKUs">
      <chakra.h2 fontSize="15.5px" fontWeight="700">
        How SKUs are made
      </chakra.h2>
      <Quiet>
        {"{supplier}, {brand}, {number}, {variant} and {ref}, each with how many characters it has: {brand:2}. "}
        Letters, digits and - _ . / stand as they are. No SKU is ever given twice; those that were given stay.
      </Quiet>
      {now && <SkuForm pattern={now.pattern} />}
    </section>
  );
}

function SkuForm({ pattern }: { pattern: string }) {
  const [typed, setTyped] = useState(pattern);
  const tried = useGetSkuPattern({ query: { pattern: typed } }, { retry: false, keep: true });
  const set = useSetSkuPattern(() => ({ body: { pattern: typed } }));
  return (
    <>
      <chakra.div display="flex" gap="2" py="2">
        <Input
          flex="1"
          aria-label="Pattern of SKUs"
          fontFamily="mono"
          value={typed}
          onChange={(e: React.ChangeEvent<HTMLInputElement>) => setTyped(e.target.value)}
        />
        <Button
          look="main"
          disabled={typed === pattern || tried.isError || set.isPending}
          onClick={() => set.mutate(undefined)}
        >
          Make them so
        </Button>
      </chakra.div>
      <Trouble error={tried.error ?? set.error} />
      <chakra.table w="100%">
        <thead>
          <tr>
            <Head left>What the next would get</Head>
            <Head left>Supplier's product</Head>
          </tr>
        </thead>
        <tbody>
          {tried.data?.shown.map((s) => (
            <tr key={s.ref}>
              <chakra.td py="0.5" pr="3">
                <Code color="ink">{s.sku}</Code>
              </chakra.td>
              <chakra.td py="0.5">
                {s.title} <Code>{s.ref}</Code>
              </chakra.td>
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </>
  );
}
