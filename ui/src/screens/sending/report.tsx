import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useDo } from "../../api/queries";
import { Button, Code, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";

type Props = { site: number; look: Schemas["Report"]; onDone: (taken: Schemas["ReportTaken"]) => void };

const things = ["SKU", "key", "row", "state", "field", "words"];
const meanings = { confirmed: "it is listed", refused: "it is refused", taken: "they are at it" };

/** ReportForm shows what is recognised of a report before it is read in. */
export function ReportForm({ site, look, onDone }: Props) {
  const [columns, setColumns] = useState(Object.fromEntries(look.columns.map((c) => [c.name, c.as as string])));
  const [states, setStates] = useState(Object.fromEntries(look.states.map((s) => [s.word, s.means as string])));
  const take = useDo(
    () =>
      read(
        api.POST("/api/sites/{id}/reports/take", {
          params: { path: { id: site } },
          body: { token: look.token, columns, states },
        }),
      ),
    "sendouts",
    "listings",
    "runs",
    "counts",
  );
  const send = () => !take.isPending && take.mutate(undefined, { onSuccess: onDone });
  useKeys({ ".": send }, true, [[".", "read the report in"]]);
  return (
    <chakra.div pt="2">
      <chakra.div display="flex" gap="3" alignItems="baseline">
        <chakra.strong>{look.name}</chakra.strong>
        <span>
          <Code color="ink">{look.rows}</Code> lines, <Code color="ink">{look.known}</Code> of them wait for an answer
        </span>
      </chakra.div>
      <chakra.div display="grid" gridTemplateColumns="1fr 1fr" alignItems="start" gap="6" py="2">
        <table>
          <tbody>
            {look.columns.map((c) => (
              <tr key={c.name}>
                <chakra.td fontWeight="600" pr="3">
                  {c.name}
                </chakra.td>
                <chakra.td pr="3" maxW="180px" truncate>
                  <Quiet>{c.samples.join(", ")}</Quiet>
                </chakra.td>
                <td>
                  <Select
                    h="26px"
                    aria-label={`${c.name} is`}
                    value={columns[c.name]}
                    onChange={(e) => setColumns({ ...columns, [c.name]: e.target.value })}
                  >
                    <option value="">not read</option>
                    {things.map((t) => (
                      <option key={t} value={t}>
                        {t}
                      </option>
                    ))}
                  </Select>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <table>
          <tbody>
            {look.states.map((s) => (
              <tr key={s.word}>
                <chakra.td fontWeight="600" pr="3">
                  {s.word}
                </chakra.td>
                <chakra.td pr="3">
                  <Code color="ink">{s.rows}</Code>
                </chakra.td>
                <td>
                  <Select
                    h="26px"
                    aria-label={`${s.word} means`}
                    value={states[s.word]}
                    onChange={(e) => setStates({ ...states, [s.word]: e.target.value })}
                  >
                    {Object.entries(meanings).map(([k, words]) => (
                      <option key={k} value={k}>
                        {words}
                      </option>
                    ))}
                  </Select>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </chakra.div>
      <Trouble error={take.error} />
      <Button look="main" disabled={take.isPending} onClick={send}>
        Read it in <Key>.</Key>
      </Button>
    </chakra.div>
  );
}
