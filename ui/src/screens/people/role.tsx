import { chakra } from "@chakra-ui/react";
import { ifMatch } from "../../api/client";
import { createRole, updateRole, useDeleteRole } from "../../api/operations";
import { Button, Quiet, Trouble } from "../../parts/controls";
import { Form, Text, Tick, useKeep } from "../../parts/form";
import { type Role, rights, useRoles, wordsBeside } from "./roles";

/** Roles are what somebody may be here, each with what it lets one do. Those that the owner made open. */
export function Roles({ onOpen }: { onOpen: (id: number) => void }) {
  const all = useRoles();
  return (
    <chakra.section aria-label="Roles" maxW="720px">
      <chakra.dl color="quiet" css={{ "& dt": { fontWeight: 700 } }}>
        {all.map((r) => (
          <chakra.div key={r.name} display="grid" gridTemplateColumns="112px 1fr" gap="2" py="0.5">
            <dt>
              {r.id ? (
                <chakra.button type="button" cursor="pointer" textDecoration="underline" onClick={() => onOpen(r.id)}>
                  {r.name}
                </chakra.button>
              ) : (
                r.name
              )}
            </dt>
            <dd>{wordsBeside(r, all)}</dd>
          </chakra.div>
        ))}
      </chakra.dl>
      <chakra.div py="2">
        <Button size="small" onClick={() => onOpen(0)}>
          Make a role
        </Button>
      </chakra.div>
    </chakra.section>
  );
}

type Written = { name: string } & Record<string, boolean | string>;

const written = (r: Role | undefined): Written => ({
  name: r?.name ?? "",
  ...Object.fromEntries(rights.map(([right]) => [right, r?.rights.includes(right as never) ?? right === "look"])),
});

/** OneRole is a role that the owner makes or changes; id 0 is a new one. */
export function OneRole({ id, onDone }: { id: number; onDone: () => void }) {
  const role = useRoles().find((r) => r.id === id && id > 0);
  const keep = useKeep<Written, unknown>({
    values: written(role),
    version: role?.version,
    written: (now) => written(now as Role),
    keep: ({ name, ...ticked }, version) => {
      const body = { name, rights: rights.map(([right]) => right).filter((right) => ticked[right]) as Role["rights"] };
      return role ? updateRole({ path: { id: role.id }, header: ifMatch(version), body }) : createRole({ body });
    },
    done: onDone,
  });
  const drop = useDeleteRole(() => ({ path: { id } }));
  return (
    <>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" mb="2">
        {role ? role.name : "A new role"}
      </chakra.h2>
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="A role" focus pr="1">
        <Text name="name" label="Name" w="200px" hint="bookkeeper" />
        {rights
          .filter(([right]) => right !== "look")
          .map(([right, says]) => (
            <Tick key={right} name={right} label={says} />
          ))}
        <Quiet fontSize="12.5px">Everybody looks.</Quiet>
        {keep.clash}
        <chakra.div display="flex" gap="3" alignItems="center" pt="2">
          <Button type="submit" look="main" disabled={keep.busy}>
            Keep
          </Button>
          {role && role.holders === 0 && (
            <Button disabled={drop.isPending} onClick={() => drop.mutate(undefined, { onSuccess: onDone })}>
              Delete it
            </Button>
          )}
        </chakra.div>
        {role && role.holders > 0 && (
          <Quiet fontSize="12.5px">
            {role.holders} {role.holders === 1 ? "person or token has" : "people and tokens have"} it.
          </Quiet>
        )}
      </Form>
      <Trouble error={drop.error} />
    </>
  );
}
