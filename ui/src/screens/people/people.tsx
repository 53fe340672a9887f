import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Title } from "../../parts/controls";
import { Tabs } from "../../parts/tabs";
import { Deeds } from "./deeds";
import { Myself } from "./myself";
import { Team } from "./team";

const says = {
  you: "what you log in with, where you are logged in, and your scripts' tokens",
  team: "who works here, and what each may",
  deeds: "who did what, the last first",
};

/** People is who works here: oneself, the others, and what everybody did. */
export function People() {
  const a = useAddress();
  const { data: clock } = useClock();
  const lets = clock?.rights.includes("people") ?? false;
  const asked = a.get("tab");
  const tab = asked === "deeds" || (asked === "team" && lets) ? asked : "you";
  const to = (t: string) => (t ? `?tab=${t}` : "/people");
  return (
    <>
      <Title title="People" more={says[tab]}>
        {clock?.password && (
          <form method="post" action="/log-out">
            <Button type="submit">Log out</Button>
          </form>
        )}
      </Title>
      <Tabs
        label="People"
        tabs={[
          { to: to(""), label: "You", on: tab === "you" },
          ...(lets ? [{ to: to("team"), label: "Who works here", on: tab === "team" }] : []),
          { to: to("deeds"), label: "Who did what", on: tab === "deeds" },
        ]}
      >
        {clock && tab === "you" && <Myself />}
        {tab === "team" && <Team />}
        {tab === "deeds" && <Deeds />}
      </Tabs>
    </>
  );
}
