import { chakra } from "@chakra-ui/react";
import { ifMatch, type Schemas } from "../../api/client";
import { updateMailSettings } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Quiet, Word } from "../../parts/controls";
import { Choose, Form, Text, useKeep, Whole } from "../../parts/form";
import { time } from "../../parts/when";
import { useLetters, useMail, useMails } from "./queries";

type Settings = Schemas["MailSettings"];

/** MailForm is how mail is sent, what became of the last ones, and in the demo
 * what its mailbox got. */
export function MailForm() {
  const { data: set } = useMail();
  const { data: mails } = useMails();
  const { data: clock } = useClock();
  const { data: letters } = useLetters(!!clock?.demo);
  return (
    <>
      <chakra.h2 fontSize="15.5px" fontWeight="700" pt="2" mb="2">
        Mail
      </chakra.h2>
      {set && <Server set={set} />}
      {!!mails?.length && (
        <chakra.section aria-label="Mails sent" mt="4">
          <chakra.h3 fontWeight="700">Sent</chakra.h3>
          {mails.slice(0, 5).map((m) => (
            <chakra.div key={m.id} borderTopWidth="1px" borderColor="hair" py="1" display="flex" gap="2">
              <chakra.span flex="1" minW="0" truncate={!m.refused} title={m.error || m.subject}>
                {m.subject}
                {m.refused && (
                  <Quiet display="block">
                    to {m.to}: {m.error}
                  </Quiet>
                )}
              </chakra.span>
              {m.sent ? (
                <Quiet>{time(m.sent, clock?.now)}</Quiet>
              ) : (
                <Word tone="bad">{m.refused ? "refused" : m.error ? "not yet" : "waits"}</Word>
              )}
            </chakra.div>
          ))}
        </chakra.section>
      )}
      {clock?.demo && (
        <chakra.section aria-label="The demo's mailbox" mt="4">
          <chakra.h3 fontWeight="700">The demo's mailbox</chakra.h3>
          {letters?.length === 0 && <Quiet>Nothing came yet.</Quiet>}
          {letters?.map((l) => (
            <chakra.details key={l.id} borderTopWidth="1px" borderColor="hair" py="1">
              <chakra.summary cursor="pointer">
                <b>{l.subject}</b> <Quiet>{time(l.at, clock.now)}</Quiet>
              </chakra.summary>
              <chakra.pre fontFamily="mono" fontSize="12px" whiteSpace="pre-wrap" overflowWrap="anywhere" py="1">
                {l.body}
              </chakra.pre>
            </chakra.details>
          ))}
        </chakra.section>
      )}
    </>
  );
}

function Server({ set }: { set: Settings }) {
  const keep = useKeep<Settings, unknown>({
    values: set,
    version: set.version,
    keep: (v, version) =>
      updateMailSettings({
        header: ifMatch(version),
        body: {
          host: v.host,
          port: v.port,
          security: v.security,
          username: v.username,
          password: v.password || undefined,
          from: v.from,
          to: v.to,
          link: v.link,
        } as Settings,
      }),
  });
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="How mail is sent">
      <Text name="host" label="Server" w="200px" hint="none: no mail" />
      <Whole name="port" label="Port" />
      <Choose
        name="security"
        label="Secured by"
        options={[
          ["starttls", "STARTTLS"],
          ["tls", "TLS"],
          ["none", "nothing"],
        ]}
      />
      <Text name="username" label="User" w="200px" />
      <Text name="password" label="Password" w="200px" secret hint={set.known ? "the one that is kept" : ""} />
      <Text name="from" label="From" w="200px" />
      <Text name="to" label="To" w="200px" />
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" pt="2">
        <Button type="submit" size="small" disabled={keep.busy}>
          Keep
        </Button>
        {keep.kept && <Quiet role="status">Kept.</Quiet>}
      </chakra.div>
    </Form>
  );
}
