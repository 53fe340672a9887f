import { chakra } from "@chakra-ui/react";
import { ifMatch, type Schemas } from "../../api/client";
import { createPerson, updatePerson, useEndSessions, useListPeople } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Head, Key, Quiet, Trouble, Word } from "../../parts/controls";
import { Choose, Form, Text, Tick, useKeep } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { Panel } from "../../parts/panel";
import { time } from "../../parts/when";
import { OneRole, Roles } from "./role";
import { useRoles, words } from "./roles";

type Person = Schemas["Person"];

/** Team is who works here and what each may. A person opens into what they are here. */
export function Team() {
  const a = useAddress();
  const { data: clock } = useClock();
  const { data: all, error, refetch } = useListPeople();
  const adding = a.get("open") === "new";
  const one = all?.find((p) => p.id === a.open);
  useKeys({ n: () => a.put({ open: "new" }) }, true, [["n", "let somebody work here"]]);
  return (
    <chakra.div display="flex" gap="5" flex="1" minH="0" h="100%">
      <chakra.div flex="1" minW="0" overflowY="auto" pt="1">
        <Trouble error={error} retry={refetch} />
        <chakra.table w="100%" aria-label="Who works here" css={{ "& td, & th": { padding: "6px 12px 6px 0" } }}>
          <thead>
            <tr>
              <Head left>name</Head>
              <Head left>role</Head>
              <Head left>logs in with</Head>
              <Head left>last here</Head>
            </tr>
          </thead>
          <tbody>
            {all?.map((p) => (
              <chakra.tr key={p.id} borderTopWidth="1px" borderColor="hair" bg={p.id === a.open ? "wash" : undefined}>
                <td>
                  <chakra.button
                    type="button"
                    cursor="pointer"
                    fontWeight="600"
                    onClick={() => a.put({ open: String(p.id), role: null })}
                  >
                    {p.name}
                  </chakra.button>
                </td>
                <td>{p.active ? p.role : <Word tone="bad">works here no more</Word>}</td>
                <td>
                  {p.password ? `a password${p.code ? " and a code" : ""}` : <Quiet>no password of their own</Quiet>}
                </td>
                <td>{p.seen ? time(p.seen, clock?.now) : <Quiet>never logged in</Quiet>}</td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
        <chakra.div py="3">
          <Button look="main" onClick={() => a.put({ open: "new", role: null })}>
            Let somebody work here <Key>n</Key>
          </Button>
        </chakra.div>
        <Roles onOpen={(role) => a.put({ open: null, role: String(role) })} />
      </chakra.div>
      {a.get("role") && (
        <Panel label="A role" onClose={() => a.put({ role: null })}>
          <OneRole key={a.get("role")} id={Number(a.get("role"))} onDone={() => a.put({ role: null })} />
        </Panel>
      )}
      {(adding || one) && (
        <Panel label={one ? one.name : "Somebody new"} onClose={() => a.setOpen(null)}>
          <One key={one?.id ?? "new"} person={one} onDone={(id) => a.setOpen(id)} />
        </Panel>
      )}
    </chakra.div>
  );
}

type Written = { name: string; role: Person["role"]; active: boolean; password: string; end_tokens: boolean };

function One({ person: p, onDone }: { person?: Person; onDone: (id: number) => void }) {
  const keep = useKeep<Written, { id?: number }>({
    values: { name: p?.name ?? "", role: p?.role ?? "look", active: p?.active ?? true, password: "", end_tokens: true },
    version: p?.version,
    written: (now) => ({ ...(now as Written), password: "", end_tokens: true }),
    keep: async ({ password, end_tokens, ...v }, version) => {
      const body = { ...v, ...(password && { password, ...(p && { end_tokens }) }) };
      if (!p) return createPerson({ body });
      await updatePerson({ path: { id: p.id }, header: ifMatch(version), body });
      return {};
    },
    done: (out) => out.id && onDone(out.id),
  });
  const roles = useRoles();
  const end = useEndSessions(() => ({ path: { id: p?.id ?? 0 } }));
  const [role, password] = keep.form.watch(["role", "password"]);
  return (
    <>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" mb="2">
        {p ? p.name : "Somebody new"}
      </chakra.h2>
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label={p ? p.name : "Somebody new"} focus pr="1">
        <Text name="name" label="Name" w="200px" />
        <Choose name="role" label="Role" options={roles.map((r) => [r.name, r.name])} w="200px" />
        <Quiet fontSize="12.5px">{words(roles.find((r) => r.name === role))}</Quiet>
        <Text
          secret
          name="password"
          label="Password"
          w="200px"
          hint={p?.password ? "as it is" : "8 characters or more"}
        />
        {p && password && <Tick name="end_tokens" label="End their tokens too" />}
        {p && <Tick name="active" label="Works here" />}
        {keep.clash}
        <chakra.div display="flex" gap="3" alignItems="center" pt="2">
          <Button type="submit" look="main" disabled={keep.busy}>
            {p ? "Keep" : "Let them work here"}
          </Button>
          {keep.kept && <Quiet role="status">Kept.</Quiet>}
        </chakra.div>
      </Form>
      {p && (
        <chakra.div pt="5">
          <Button disabled={end.isPending} onClick={() => end.mutate(undefined)}>
            End every log-in and token
          </Button>
          <Trouble error={end.error} />
          {end.isSuccess && <Quiet role="status"> Ended.</Quiet>}
        </chakra.div>
      )}
    </>
  );
}
