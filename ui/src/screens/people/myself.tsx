import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import {
  changePassword,
  confirmSecondFactor,
  createToken,
  removeSecondFactor,
  useCreateSecondFactor,
  useDeleteSession,
  useDeleteToken,
  useGetMe,
} from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Code, Head, Quiet, Trouble, Word } from "../../parts/controls";
import { Choose, Form, Text, Tick, useKeep, Whole } from "../../parts/form";
import { time } from "../../parts/when";
import { type Role, useRoles, words } from "./roles";

type Me = Schemas["Me"];

const useMe = () => useGetMe();

/** Myself is what one is known by here. */
export function Myself() {
  const { data: me, error, refetch } = useMe();
  const all = useRoles();
  if (!me) return <Trouble error={error} retry={refetch} />;
  return (
    <chakra.div
      display="grid"
      gridTemplateColumns="minmax(0, 420px) minmax(0, 1fr)"
      gap="10"
      overflowY="auto"
      h="100%"
      pt="2"
    >
      <chakra.div display="flex" flexDirection="column" gap="5">
        <chakra.p>
          You are <b>{me.name}</b>. Whoever has your role, <b>{me.role}</b>, may do this:{" "}
          {words(all.find((r) => r.name === me.role))}.
          {!me.asked && " You work here alone, at your own machine: nobody is asked for a password."}
        </chakra.p>
        <Password me={me} />
        <Codes me={me} />
      </chakra.div>
      <chakra.div display="flex" flexDirection="column" gap="6">
        <Tokens me={me} />
        <LogIns me={me} />
      </chakra.div>
    </chakra.div>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <chakra.section aria-label={title}>
      <chakra.h2 fontSize="15.5px" fontWeight="700" mb="1.5">
        {title}
      </chakra.h2>
      {children}
    </chakra.section>
  );
}

const tokens = (n: number) => `${n} ${n === 1 ? "token" : "tokens"}`;

function Password({ me }: { me: Me }) {
  const [changed, setChanged] = useState<Schemas["PasswordChanged"]>();
  const blank = { old: "", new: "", end_tokens: true };
  const keep = useKeep<typeof blank, Schemas["PasswordChanged"]>({
    values: blank,
    keep: ({ old, ...v }) => changePassword({ body: { ...(old && { old }), ...v } }),
    done: (out) => {
      setChanged(out);
      keep.form.reset(blank);
    },
  });
  return (
    <Part title={me.own ? "Another password" : "A password"}>
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="Your password">
        {(me.own || me.asked) && <Text secret name="old" label="As it is" w="200px" />}
        <Text secret name="new" label="New" w="200px" hint="8 characters or more" />
        {me.tokens.length > 0 && <Tick name="end_tokens" label={`End my ${tokens(me.tokens.length)} too`} />}
        <chakra.div display="flex" gap="3" alignItems="center" pt="2">
          <Button type="submit" size="small" disabled={keep.busy}>
            {me.own ? "Change it" : "Set it"}
          </Button>
          {keep.kept && changed && (
            <Quiet role="status">
              Changed. Your other log-ins have ended
              {changed.ended > 0 && `, and ${tokens(changed.ended)} with them`}.
              {changed.kept > 0 && ` ${tokens(changed.kept)} still ${changed.kept === 1 ? "holds" : "hold"}.`}
            </Quiet>
          )}
        </chakra.div>
      </Form>
    </Part>
  );
}

function Codes({ me }: { me: Me }) {
  const begin = useCreateSecondFactor(() => ({}));
  return (
    <Part title="A code beside it">
      {me.code ? (
        <DropCode />
      ) : begin.data ? (
        <NewCode code={begin.data} onDone={begin.reset} />
      ) : (
        <>
          <chakra.p mb="2">
            Six figures that change every half minute, shown by an authenticator on your telephone: whoever learns your
            password can't log in with it alone.
          </chakra.p>
          <Button size="small" disabled={begin.isPending} onClick={() => begin.mutate(undefined)}>
            Set one up
          </Button>
          <Trouble error={begin.error} />
        </>
      )}
    </Part>
  );
}

function NewCode({ code, onDone }: { code: Schemas["Code"]; onDone: () => void }) {
  const keep = useKeep<{ code: string }, unknown>({
    values: { code: "" },
    keep: (body) => confirmSecondFactor({ body }),
    done: onDone,
  });
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="A code beside the password" focus>
      <chakra.div display="flex" gap="4" mb="2">
        <img src={code.picture} width={148} height={148} alt="The secret for your authenticator" />
        <chakra.div>
          <chakra.p mb="2">Have your authenticator read the picture, or type this in:</chakra.p>
          <Code overflowWrap="anywhere">{code.secret}</Code>
        </chakra.div>
      </chakra.div>
      <Text name="code" label="What it shows now" w="104px" figures />
      <chakra.div pt="2">
        <Button type="submit" size="small" disabled={keep.busy}>
          Ask me for codes from now on
        </Button>
      </chakra.div>
    </Form>
  );
}

function DropCode() {
  const keep = useKeep<{ password: string }, unknown>({
    values: { password: "" },
    keep: (body) => removeSecondFactor({ body }),
  });
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="No code any more">
      <chakra.p mb="2">You are asked for a code when you log in.</chakra.p>
      <Text secret name="password" label="Your password" w="200px" />
      <chakra.div pt="2">
        <Button type="submit" size="small" disabled={keep.busy}>
          Ask me for none any more
        </Button>
      </chakra.div>
    </Form>
  );
}

const never = ["settings", "people"]; // whatever its scope, a token may neither

/** scopes are the roles that a token of somebody's may have: those that may no more than they do. */
const scopes = (all: Role[], me: Me): [string, string][] =>
  all.filter((r) => r.rights.every((x) => !never.includes(x) && me.rights.includes(x))).map((r) => [r.name, r.name]);

function Tokens({ me }: { me: Me }) {
  const { data: clock } = useClock();
  const all = useRoles();
  const [shown, setShown] = useState<{ name: string; token: string } | null>(null);
  const keep = useKeep<Schemas["TokenText"], Schemas["NewToken"]>({
    values: { name: "", scope: "look", days: 90 },
    keep: (body) => createToken({ body }),
    done: (made) => {
      setShown({ name: keep.form.getValues("name"), token: made.token });
      keep.form.reset({ name: "", scope: "look", days: 90 });
    },
  });
  const end = useDeleteToken((id: number) => ({ path: { id } }));
  return (
    <Part title="Tokens for scripts">
      <chakra.p mb="2">
        A script sends one as <Code>Authorization: Bearer …</Code> and may what its scope says, never more than you.
      </chakra.p>
      <Form
        form={keep.form}
        onSubmit={keep.submit}
        error={keep.error}
        label="A new token"
        display="flex"
        gap="4"
        alignItems="flex-end"
        flexWrap="wrap"
      >
        <Text name="name" label="For what" w="168px" hint="nightly stock" />
        <Choose name="scope" label="May" options={scopes(all, me)} w="104px" />
        <Whole name="days" label="Days" w="64px" hint="0: for good" />
        <Button type="submit" size="small" disabled={keep.busy}>
          Make it
        </Button>
      </Form>
      {shown && (
        <chakra.p role="status" bg="wash" px="3" py="2" my="2" rounded="5px">
          The token for {shown.name}, shown this once: <Code overflowWrap="anywhere">{shown.token}</Code>
        </chakra.p>
      )}
      <Trouble error={end.error} />
      {me.tokens.length > 0 && (
        <Rows label="Your tokens" heads={["for", "may", "made", "used", "ends"]}>
          {me.tokens.map((t) => (
            <Row key={t.id} act="End it" busy={end.isPending} of={t.name} onAct={() => end.mutate(t.id)}>
              <td>{t.name}</td>
              <td>{t.scope}</td>
              <td>{time(t.made, clock?.now)}</td>
              <td>{t.seen ? time(t.seen, clock?.now) : <Quiet>never</Quiet>}</td>
              <td>{t.ends ? time(t.ends, clock?.now) : <Quiet>never</Quiet>}</td>
            </Row>
          ))}
        </Rows>
      )}
    </Part>
  );
}

function LogIns({ me }: { me: Me }) {
  const { data: clock } = useClock();
  const end = useDeleteSession((id: number) => ({ path: { id } }));
  return (
    <Part title="Where you are logged in">
      <Trouble error={end.error} />
      {me.log_ins.length === 0 ? (
        <Quiet>Nowhere: while you work here alone, nobody logs in.</Quiet>
      ) : (
        <Rows label="Your log-ins" heads={["browser", "since", "last used"]}>
          {me.log_ins.map((x) => (
            <Row
              key={x.id}
              act={x.this ? "" : "End it"}
              busy={end.isPending}
              of={x.browser}
              onAct={() => end.mutate(x.id)}
            >
              <chakra.td maxW="320px" truncate title={x.browser}>
                {x.this && <Word tone="good">this one</Word>} {x.browser}
              </chakra.td>
              <td>{time(x.made, clock?.now)}</td>
              <td>{time(x.seen, clock?.now)}</td>
            </Row>
          ))}
        </Rows>
      )}
    </Part>
  );
}

function Rows({ label, heads, children }: { label: string; heads: string[]; children: React.ReactNode }) {
  return (
    <chakra.table aria-label={label} w="100%" mt="2" css={{ "& td, & th": { padding: "4px 12px 4px 0" } }}>
      <thead>
        <tr>
          {heads.map((h) => (
            <Head key={h} left>
              {h}
            </Head>
          ))}
          <th aria-label="What can be done" />
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </chakra.table>
  );
}

type RowProps = { act: string; of: string; busy: boolean; onAct: () => void; children: React.ReactNode };

function Row({ act, of, busy, onAct, children }: RowProps) {
  return (
    <chakra.tr borderTopWidth="1px" borderColor="hair">
      {children}
      <chakra.td textAlign="right">
        {act && (
          <Button size="small" disabled={busy} onClick={onAct} aria-label={`${act}: ${of}`}>
            {act}
          </Button>
        )}
      </chakra.td>
    </chakra.tr>
  );
}
