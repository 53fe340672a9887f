import { chakra } from "@chakra-ui/react";
import { useDeleteValueMapping, useListValueMappings } from "../../api/operations";
import { Button, Head, Quiet, Trouble } from "../../parts/controls";
import { nameOf } from "./words";

/** OurWords are a seller's words for a place's values, as they were learnt. */
export function OurWords({ site }: { site: number }) {
  const words = useListValueMappings({ path: { id: site } });
  const forget = useDeleteValueMapping((query: { category: string; attribute: string; ours: string }) => ({
    path: { id: site },
    query,
  }));
  if (!words.data) return <Trouble error={words.error} />;
  return (
    <chakra.section aria-label="Your words for their values" mt="6">
      <chakra.div display="flex" alignItems="baseline" gap="3">
        <chakra.h2 fontWeight="700">Your words for their values</chakra.h2>
        <Quiet flex="1">
          {words.data.length === 0
            ? "None yet: choose one of a place's values where a supplier's word is none of them, and it is learnt."
            : "Learnt from what was chosen; the next listing with that word has it by itself."}
        </Quiet>
        {words.data.length > 0 && (
          <chakra.a href={`/api/v1/sites/${site}/value-mappings/export.csv`} textDecoration="underline">
            As CSV
          </chakra.a>
        )}
      </chakra.div>
      <Trouble error={forget.error} />
      {words.data.length > 0 && (
        <chakra.table mt="2" w="100%" maxW="760px">
          <thead>
            <tr>
              <Head left>Category</Head>
              <Head left>What</Head>
              <Head left>Yours</Head>
              <Head left>Theirs</Head>
              <Head>Learnt from</Head>
              <Head> </Head>
            </tr>
          </thead>
          <tbody>
            {words.data.map((w) => (
              <chakra.tr key={`${w.category} ${w.attribute} ${w.ours}`} borderTopWidth="1px" borderColor="hair">
                <td>{w.path}</td>
                <td>{nameOf(`attributes.${w.attribute}`)}</td>
                <td>{w.ours}</td>
                <chakra.td fontWeight="600">{w.theirs}</chakra.td>
                <chakra.td textAlign="right" color="quiet">
                  {w.by}
                </chakra.td>
                <chakra.td textAlign="right">
                  <Button
                    look="plain"
                    size="small"
                    aria-label={`Forget ${w.ours}`}
                    disabled={forget.isPending}
                    onClick={() => forget.mutate({ category: w.category, attribute: w.attribute, ours: w.ours })}
                  >
                    Forget
                  </Button>
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      )}
    </chakra.section>
  );
}
