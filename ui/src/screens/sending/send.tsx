import type { UseMutationResult } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useCreateSubmission } from "../../api/operations";
import { useCounts, useListings } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Behind } from "../../parts/behind";
import { Button, Key, Title, Trouble } from "../../parts/controls";
import { How, HowButton, useHow } from "../../parts/how";
import { useKeys } from "../../parts/keys";
import { Tabs } from "../../parts/tabs";
import { toggled } from "../../parts/toggled";
import { Alike } from "./alike";
import { Desk } from "./desk";
import { Listings } from "./listings";
import { SendOuts } from "./sendouts";
import { Sheets } from "./sheets";
import { Untied } from "./untied";
import { Words } from "./words";

const says = {
  ready: "Priced, in stock, not on sale yet.",
  refused: "The marketplace's words stand beside each; send again once the reason is gone.",
  words: "On sale, and to say something else than they do there.",
  hand: "What is to be done by hand, at places that have neither a gateway nor a sheet.",
  sheets: "Filled sheets for places that take no lines: take each there, then read its report in.",
  out: "What went out, and what came back line by line.",
  untied: "On sale in your name, and tied to nothing here.",
};

type Tab = keyof typeof says;

/** Send puts listings up: those that are ready, those that were refused, what
 * became of each send-out, and what is on sale that nothing here is tied to. */
export function Send() {
  const a = useAddress();
  const { data: c } = useCounts();
  const tab = (a.get("tab") in says ? a.get("tab") : "ready") as Tab;
  const toSend = tab === "ready" || tab === "refused";
  const list = useListings({ state: tab, ...a.sorting }, toSend);
  const [chosen, setChosen] = useState({ tab, ids: new Set<number>() });
  const ids = chosen.tab === tab ? chosen.ids : new Set<number>(); // what was chosen on another tab stays there
  const how = useHow(toSend);
  const send = useCreateSubmission((listings: number[] | undefined) => ({ body: { listings, ...how.body } }));
  return (
    <>
      <Title title="Send" more={says[tab]}>
        {toSend && (
          <SendThem
            send={send}
            refused={tab === "refused"}
            total={list.total}
            chosen={[...ids]}
            onNone={() => setChosen({ tab, ids: new Set() })}
            how={how}
          />
        )}
      </Title>
      <How how={how} sites order />
      <Trouble error={send.error} />
      <Behind n={(toSend && send.data?.send_outs.length === 0 && send.data.reworked) || 0} />
      <Tabs
        label="Send"
        tabs={[
          { to: "?", label: "Ready", count: c?.ready, on: tab === "ready" },
          { to: "?tab=refused", label: "Refused", count: c?.refused, on: tab === "refused" },
          { to: "?tab=out", label: "Send-outs", count: c?.sends_stuck, on: tab === "out" },
          { to: "?tab=words", label: "Changed words", count: c?.words, on: tab === "words" },
          { to: "?tab=sheets", label: "Sheets", count: c?.sheets, on: tab === "sheets" },
          { to: "?tab=hand", label: "By hand", count: c?.tasks, on: tab === "hand" },
          { to: "?tab=untied", label: "Untied", count: c?.untied, on: tab === "untied" },
        ]}
      >
        {tab === "refused" && <Alike onChoose={(all) => setChosen({ tab, ids: new Set(all) })} />}
        {toSend && (
          <Listings
            refused={tab === "refused"}
            list={list}
            chosen={ids}
            onChoose={(l) => setChosen({ tab, ids: toggled(ids, l.id) })}
          />
        )}
        {tab === "out" && <SendOuts />}
        {tab === "words" && <Words />}
        {tab === "hand" && <Desk />}
        {tab === "sheets" && <Sheets />}
        {tab === "untied" && <Untied />}
      </Tabs>
    </>
  );
}

type SendThemProps = {
  send: UseMutationResult<Schemas["Sent"], Error, number[] | undefined>;
  refused: boolean;
  total: number;
  chosen: number[];
  onNone: () => void;
  how: ReturnType<typeof useHow>;
};

/** SendThem lets go of what is chosen; where nothing is, of all that is ready. */
function SendThem({ send, refused, total, chosen, onNone: none, how }: SendThemProps) {
  const go = useNavigate();
  const n = chosen.length || (refused ? 0 : total);
  const act = () => {
    if (n === 0 || send.isPending) return;
    send.mutate(chosen.length ? chosen : undefined, {
      onSuccess: (s) => {
        if (s.send_outs.length === 0) return; // nothing could go yet: what was chosen stays so
        none();
        go(s.send_outs.length === 1 ? `/send/${s.send_outs[0]}` : "/send?tab=out", { state: s });
      },
    });
  };
  useKeys({ ".": act }, true, [[".", "send them"]]);
  const what = n === 1 ? "listing" : "listings";
  return (
    <>
      {chosen.length > 0 && <Button onClick={none}>Choose none</Button>}
      <HowButton how={how} />
      <Button look="main" disabled={n === 0 || send.isPending} onClick={act}>
        {n === 0
          ? "Choose which to send"
          : `Send ${how.asked.site && how.open ? "those" : n}${chosen.length || refused ? "" : " ready"} ${what}`}{" "}
        <Key>.</Key>
      </Button>
    </>
  );
}
