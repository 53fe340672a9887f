import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useCreateWebLookUp, useDeleteWebLookUp } from "../../api/operations";
import { useSieves } from "../../api/queries";
import { Button, Code, Input, Trouble } from "../../parts/controls";

/** LookUps are the web addresses that the seller looks things up at. */
export function LookUps() {
  const { data, error } = useSieves();
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const keep = useCreateWebLookUp(() => ({ body: { name, address } }));
  const forget = useDeleteWebLookUp((id: number) => ({ path: { id } }));
  return (
    <chakra.section aria-label="Where to look things up" maxW="760px" pt="3">
      <chakra.p mb="3">
        An address with <Code color="ink">{"{words}"}</Code> or <Code color="ink">{"{number}"}</Code> where a product's
        title or number goes. It stands beside every candidate that is opened, and opens in a new tab.
      </chakra.p>
      <Trouble error={error ?? forget.error} />
      {data?.look_ups.map((l) => (
        <chakra.div
          key={l.id}
          display="flex"
          gap="3"
          alignItems="center"
          h="34px"
          borderBottomWidth="1px"
          borderColor="hair"
        >
          <chakra.span w="180px" truncate fontWeight="700">
            {l.name}
          </chakra.span>
          <Code flex="1" truncate>
            {l.address}
          </Code>
          <Button look="plain" size="small" aria-label={`Forget ${l.name}`} onClick={() => forget.mutate(l.id)}>
            Forget
          </Button>
        </chakra.div>
      ))}
      <chakra.form
        display="flex"
        gap="2"
        mt="3"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate(undefined, {
            onSuccess: () => {
              setName("");
              setAddress("");
            },
          });
        }}
      >
        <Input
          aria-label="Name"
          placeholder="its name"
          w="180px"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Input
          aria-label="Address"
          placeholder="https://find.example/?q={words}"
          value={address}
          onChange={(e) => setAddress(e.target.value)}
        />
        <Button type="submit" disabled={!name.trim() || !address.trim() || keep.isPending}>
          Keep
        </Button>
      </chakra.form>
      <Trouble error={keep.error} />
    </chakra.section>
  );
}
