import { useCounts } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Select, Title } from "../../parts/controls";
import { PullStop } from "../../parts/halt";
import { Tabs } from "../../parts/tabs";
import { Differs } from "./differs";
import { Following } from "./follow";
import { RivalMoves, SupplyMoves } from "./moves";
import { Plan } from "./plan";
import { usePlan, useWatchedSites } from "./queries";
import { Shadows } from "./shadows";
import { Watches } from "./watches";

const says = {
  plan: "",
  watches: "numbers you want to be told of",
  differs: "what is there otherwise than it was confirmed",
  suppliers: "what suppliers changed of what you list",
  rivals: "how what others ask moved where you list",
  week: "what rules in their first week would have sent",
  follow: "how prices and stock follow, and what goes by itself",
};

type Tab = keyof typeof says;

/** Watch is what should change on the marketplaces and why; what suppliers and
 * rivals did; and what somebody wants to be told of. */
export function Watch() {
  const a = useAddress();
  const tab = (a.get("tab") in says ? a.get("tab") : "plan") as Tab;
  const { data: c } = useCounts();
  const site = Number(a.get("site")) || undefined;
  const { data: plan } = usePlan(site);
  const sites = useWatchedSites(tab === "plan" ? plan?.sites : undefined);
  const chosen = tab === "plan" ? (plan?.site_id === 0 ? -1 : plan?.site_id) : site;
  const to = (t: string) => `?${new URLSearchParams({ ...(t && { tab: t }), ...(site && { site: String(site) }) })}`;
  return (
    <>
      <Title title="Watch" more={tab === "plan" ? planWords(plan) : says[tab]}>
        {sites.length > 1 && tab !== "watches" && tab !== "differs" && tab !== "suppliers" && (
          <Select
            aria-label="Site"
            value={chosen ?? ""}
            onChange={(e) => a.put({ site: e.target.value, open: null, kind: null })}
          >
            {tab === "plan" && <option value={-1}>all sites</option>}
            {(tab === "rivals" || tab === "week") && <option value="">all sites</option>}
            {sites.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </Select>
        )}
        {!c?.halt && <PullStop />}
      </Title>
      <Tabs
        label="Watch"
        tabs={[
          { to: to(""), label: "Plan", count: c?.plan_lines, on: tab === "plan" },
          { to: to("watches"), label: "Watches", count: c?.hits, on: tab === "watches" },
          { to: to("differs"), label: "Differs there", count: c?.differences, on: tab === "differs" },
          { to: to("suppliers"), label: "Suppliers' changes", on: tab === "suppliers" },
          { to: to("rivals"), label: "Rivals' moves", on: tab === "rivals" },
          { to: to("week"), label: "First week", on: tab === "week" },
          { to: to("follow"), label: "How it follows", on: tab === "follow" },
        ]}
      >
        {tab === "plan" && plan && <Plan key={`${plan.id} ${plan.site_id}`} plan={plan} />}
        {tab === "watches" && <Watches />}
        {tab === "differs" && <Differs />}
        {tab === "suppliers" && <SupplyMoves />}
        {tab === "rivals" && <RivalMoves site={site} />}
        {tab === "week" && <Shadows site={site} />}
        {tab === "follow" && <Following site={site} />}
      </Tabs>
    </>
  );
}

function planWords(plan: ReturnType<typeof usePlan>["data"]) {
  if (!plan) return "";
  const total = plan.groups.reduce((n, g) => n + g.lines, 0);
  if (total === 0) return "nothing has to change";
  const words = `${total} ${total === 1 ? "change" : "changes"} to make on ${plan.site}`;
  return plan.reworked
    ? `${words}; ${plan.reworked} ${plan.reworked === 1 ? "listing is" : "listings are"} being worked out again`
    : words;
}
