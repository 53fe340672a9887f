import { chakra } from "@chakra-ui/react";
import { useParts } from "../../api/operation";
import { listAuditEntries, useListAuditActors } from "../../api/operations";
import { useClock } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Button, Code, Empty, Input, Quiet, Select, Trouble } from "../../parts/controls";
import { at } from "../../parts/when";

/** Deeds is who did what, by whom, by words and by day, here or as a file. */
export function Deeds() {
  const a = useAddress();
  const { data: clock } = useClock();
  const query = { who: a.get("who"), words: a.get("words"), from: a.get("from"), to: a.get("to") };
  const { data: names } = useListAuditActors();
  const list = useParts(listAuditEntries, { query: { ...query } });
  const asked = new URLSearchParams(Object.entries(query).filter(([, v]) => v)).toString();
  return (
    <chakra.div display="flex" flexDirection="column" h="100%" minH="0">
      <chakra.div display="flex" gap="3" alignItems="center" py="2">
        <Select aria-label="Who" value={query.who} onChange={(e) => a.put({ who: e.target.value })}>
          <option value="">everybody</option>
          {names?.map((n) => (
            <option key={n}>{n}</option>
          ))}
        </Select>
        <Input
          aria-label="Words"
          placeholder="what, or with what"
          w="200px"
          h="28px"
          value={query.words}
          onChange={(e) => a.put({ words: e.target.value })}
        />
        {(["from", "to"] as const).map((k) => (
          <chakra.label key={k} display="flex" gap="2" alignItems="center">
            {k}
            <Input type="date" w="138px" h="28px" value={query[k]} onChange={(e) => a.put({ [k]: e.target.value })} />
          </chakra.label>
        ))}
        <Quiet>
          {list.total}
          {list.uncounted && "+"} {list.total === 1 ? "deed" : "deeds"}
        </Quiet>
        <chakra.span flex="1" />
        {(["csv", "xlsx"] as const).map((kind) => (
          <a key={kind} href={`/api/v1/audit-entries/export.${kind}?${asked}`} download>
            <Button as="span">{kind.toUpperCase()}</Button>
          </a>
        ))}
      </chakra.div>
      <Trouble error={list.error} retry={list.retry} />
      <chakra.div
        flex="1"
        overflowY="auto"
        tabIndex={0}
        role="region"
        aria-label="Deeds"
        borderTopWidth="1px"
        borderColor="hair"
        onScroll={(e) => {
          const el = e.currentTarget;
          if (el.scrollHeight - el.scrollTop - el.clientHeight < 600) list.more();
        }}
      >
        {!list.loading && list.rows.length === 0 && <Empty title="Nobody did anything of the kind" />}
        <chakra.table w="100%" aria-label="Who did what" css={{ "& td": { padding: "5px 14px 5px 0" } }}>
          <tbody>
            {list.rows.map((d) => (
              <chakra.tr key={d.id} borderBottomWidth="1px" borderColor="hair" verticalAlign="top">
                <chakra.td whiteSpace="nowrap">
                  <Code>
                    {clock && at(d.at, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" })}
                  </Code>
                </chakra.td>
                <chakra.td whiteSpace="nowrap" fontWeight="600">
                  {d.who === "easymargin" ? <Quiet>by itself</Quiet> : d.who}
                </chakra.td>
                <chakra.td whiteSpace="nowrap">{d.what}</chakra.td>
                <chakra.td overflowWrap="anywhere">{d.subject}</chakra.td>
                <chakra.td color="quiet" overflowWrap="anywhere">
                  {d.detail}
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      </chakra.div>
    </chakra.div>
  );
}
