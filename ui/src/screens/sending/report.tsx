import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useTakeSheetReport } from "../../api/operations";
import { Button, Code, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";

type Props = { site: number; look: Schemas["Report"]; onDone: (taken: Schemas["ReportTaken"]) => void };

const things = ["SKU", "key", "row", "state", "field", "words"];
const meanings = { confirmed: "it is listed", refused: "it is refused", taken: "they are at it" };

/** ReportForm shows what is recognised of a report before it is read in. */
export function ReportForm({ site, look, onDone }: Props) {
  const [columns, setColumns] = useState(Object.fromEntries(look.columns.map((c) => [c.name, c.as as string])));
  const [states, setStates] = useState(Object.fromEntries(look.states.map((s) => [s.word, s.means as string])));
  const take = useTakeSheetReport(() => ({ path: { id: site }, body: { token: look.token, columns, states } }));
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
                  <Means
                    label={`${c.name} is`}
                    value={columns[c.name]}
                    of={{ "": "not read", ...Object.fromEntries(things.map((t) => [t, t])) }}
                    onChange={(v) => setColumns({ ...columns, [c.name]: v })}
                  />
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
                  <Means
                    label={`${s.word} means`}
                    value={states[s.word]}
                    of={meanings}
                    onChange={(v) => setStates({ ...states, [s.word]: v })}
                  />
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

/** Means chooses what something in a report means: of is the words for each value. */
function Means(p: {
  label: string;
  value: string | undefined;
  of: Record<string, string>;
  onChange: (value: string) => void;
}) {
  return (
    <Select h="26px" aria-label={p.label} value={p.value} onChange={(e) => p.onChange(e.target.value)}>
      {Object.entries(p.of).map(([value, words]) => (
        <option key={value} value={value}>
          {words}
        </option>
      ))}
    </Select>
  );
}
