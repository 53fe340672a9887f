import { chakra } from "@chakra-ui/react";
import { api, read } from "../../api/client";
import { useDo, useSites } from "../../api/queries";
import { Button, Code, Input, Quiet, Trouble, Word } from "../../parts/controls";
import { Form, useKeep, Wrong } from "../../parts/form";
import { Heading } from "./heading";

/** Places are all sites we know, and on which of them we list. */
export function Places() {
  const { data: sites } = useSites();
  const lists = useDo(
    (x: { id: number; lists: boolean }) =>
      read(api.PUT("/api/sites/{id}/lists", { params: { path: { id: x.id } }, body: { lists: x.lists } })),
    "sites",
    "matches",
    "listings",
  );
  return (
    <chakra.section aria-label="Places to sell" mb="7">
      <Heading>Places to sell</Heading>
      <Quiet>Where we list, what suppliers have is looked up; the others are there to compare on the bench.</Quiet>
      {sites?.map((s) => (
        <chakra.label
          key={s.id}
          display="grid"
          gridTemplateColumns="20px 1fr 60px 120px"
          gap="2"
          alignItems="center"
          minH="26px"
        >
          <input
            type="checkbox"
            checked={s.lists}
            disabled={lists.isPending || (s.kind !== "catalogue" && !s.lists)}
            aria-label={`List on ${s.name}`}
            onChange={(e) => lists.mutate({ id: s.id, lists: e.target.checked })}
          />
          <span>{s.name}</span>
          <Code>{s.currency}</Code>
          <span>
            <Word>{s.kind}</Word>
          </span>
        </chakra.label>
      ))}
      <Trouble error={lists.error} />
    </chakra.section>
  );
}

/** Connect brings in a marketplace's sites, with their categories and fees. */
export function Connect() {
  const connect = useKeep({
    values: { name: "", address: "" },
    topics: ["sites"],
    keep: (body: { name: string; address: string }) => read(api.POST("/api/marketplaces", { body })),
  });
  const { register } = connect.form;
  return (
    <Form form={connect.form} onSubmit={connect.submit} error={connect.error} label="Connect a marketplace">
      <Heading>Connect a marketplace</Heading>
      <Quiet>By the address of its gateway; its sites, categories and fees come with it.</Quiet>
      <chakra.div display="flex" gap="2" pt="1">
        <Input w="120px" aria-label="Name" placeholder="Name" {...register("name")} />
        <Input flex="1" aria-label="Address of the gateway" placeholder="https://…" {...register("address")} />
        <Button type="submit" size="small" h="32px" disabled={connect.busy}>
          Connect
        </Button>
      </chakra.div>
      <Wrong of={["name", "address"]} />
      {connect.kept && <Quiet>Connected.</Quiet>}
    </Form>
  );
}
