import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useSetApproval } from "../../api/operations";
import { Button, Code, Key, Quiet, Word } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Money } from "../../parts/money";
import { Thumb } from "../../parts/picture";
import type { Candidate, Match } from "./queries";

type BoardProps = {
  match: Match;
  candidates: Candidate[];
  onChoose?: (c: Candidate) => void;
  onUnits: (c: Candidate) => void;
};

const beside = 3; // candidates that stand beside each other

/** Board is the supplier's product and its candidates, fact by fact. What differs
 * has a sign before it as well as a ground. */
export function Board({ match: m, candidates, onChoose, onUnits }: BoardProps) {
  const [from, setFrom] = useState(0);
  const shift = (by: number) => setFrom(Math.max(0, Math.min(from + by, candidates.length - beside)));
  useKeys({ ArrowRight: () => shift(1), ArrowLeft: () => shift(-1) }, candidates.length > beside, [
    ["→ ←", "further candidates"],
  ]);
  const shown = candidates.slice(from, from + beside);
  const aspects = [...new Set(candidates.flatMap((c) => c.rows.map((r) => r.aspect)))].filter((a) => a !== "title");
  const ours = (aspect: string) => candidates.flatMap((c) => c.rows).find((r) => r.aspect === aspect)?.ours ?? "";
  return (
    <chakra.table
      aria-label="Compared, fact by fact"
      w="100%"
      css={{ tableLayout: "fixed", borderCollapse: "collapse" }}
      fontSize="13px"
    >
      <colgroup>
        <col style={{ width: "92px" }} />
        <col style={{ width: "23%" }} />
        {shown.map((c) => (
          <col key={c.ref} />
        ))}
      </colgroup>
      <thead>
        <tr>
          <Aspect>{candidates.length > beside && `${from + 1}–${from + shown.length} of ${candidates.length}`}</Aspect>
          <Top>
            <Thumb digest={m.picture} size={148} alt={`As ${m.supplier} shows it`} />
            <chakra.div fontWeight="700" mt="1">
              {m.title}
            </chakra.div>
            <Quiet fontSize="12px">{m.supplier} says</Quiet>
          </Top>
          {shown.map((c, i) => (
            <Top key={c.ref}>
              <Thumb digest={c.picture} size={148} alt={`As the entry shows it: ${c.title}`} />
              <chakra.div fontWeight="600" mt="1">
                <Marked text={c.title} against={m.title} />
              </chakra.div>
              <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap" fontSize="12px">
                {c.page ? (
                  <a href={c.page} target="_blank" rel="noreferrer">
                    <Code textDecoration="underline">{c.ref}</Code>
                  </a>
                ) : (
                  <Code>{c.ref}</Code>
                )}
                {c.ours && <Word>ours already</Word>}
                {c.by_words && <Quiet>found by words</Quiet>}
              </chakra.div>
              <chakra.div display="flex" gap="2" mt="1.5" mb="1">
                {c.barred ? (
                  <Barred candidate={c} site={m.site_id} />
                ) : !onChoose ? null : (
                  <Button look={from + i === 0 ? "main" : undefined} size="small" onClick={() => onChoose(c)}>
                    It is this one {from + i < 9 && <Key>{from + i + 1}</Key>}
                  </Button>
                )}
              </chakra.div>
            </Top>
          ))}
        </tr>
      </thead>
      <tbody>
        {aspects.map((aspect) => (
          <tr key={aspect}>
            <Aspect>{aspect}</Aspect>
            <Cell>{ours(aspect) || <Quiet>–</Quiet>}</Cell>
            {shown.map((c) => {
              const row = c.rows.find((r) => r.aspect === aspect);
              const differs = row?.mark === "differs";
              return (
                <Cell key={c.ref} differs={differs}>
                  {row?.theirs ? (
                    <>
                      {differs && (
                        <chakra.span fontWeight="700" color="loss" title="differs" aria-label="differs: ">
                          ≠{" "}
                        </chakra.span>
                      )}
                      {row.theirs}
                    </>
                  ) : differs ? (
                    <chakra.span fontWeight="700" color="loss">
                      ≠ not said
                    </chakra.span>
                  ) : (
                    <Quiet>–</Quiet>
                  )}
                </Cell>
              );
            })}
          </tr>
        ))}
        <tr>
          <Aspect>per unit</Aspect>
          <Cell>
            <Money minor={each(m.cost, shown[0]?.units_bought)} currency={m.currency} unit />
          </Cell>
          {shown.map((c) => (
            <Cell key={c.ref}>
              <Money minor={c.lowest == null ? null : each(c.lowest, c.units_listed)} currency={m.currency} />{" "}
              {c.sellers != null && <Quiet>lowest of {c.sellers}</Quiet>}
            </Cell>
          ))}
        </tr>
        <tr>
          <Aspect>how many</Aspect>
          <Cell>
            <Quiet>single units</Quiet>
          </Cell>
          {shown.map((c) => (
            <Cell key={c.ref}>
              <chakra.span fontFamily="mono">
                {c.units_bought || "?"} bought, {c.units_listed || "?"} listed
              </chakra.span>{" "}
              <Button look="plain" size="small" onClick={() => onUnits(c)}>
                change {c === candidates[0] && <Key>U</Key>}
              </Button>
            </Cell>
          ))}
        </tr>
        <tr>
          <Aspect>evidence</Aspect>
          <Cell />
          {shown.map((c) => (
            <Cell key={c.ref}>
              <chakra.ul listStyleType="none" fontSize="12.5px">
                {c.against.map((words) => (
                  <chakra.li key={words} color="loss">
                    − {words}
                  </chakra.li>
                ))}
                {c.for.map((words) => (
                  <chakra.li key={words} color="gain">
                    + {words}
                  </chakra.li>
                ))}
              </chakra.ul>
            </Cell>
          ))}
        </tr>
      </tbody>
    </chakra.table>
  );
}

/** each is what one unit comes to, rounded; nothing where the number isn't known. */
const each = (minor: number, units: number | undefined) => (units ? Math.round(minor / units) : null);

function Aspect({ children }: { children?: React.ReactNode }) {
  return (
    <chakra.th
      scope="row"
      textAlign="left"
      verticalAlign="top"
      fontWeight="500"
      color="quiet"
      py="1"
      pr="2"
      fontSize="12.5px"
    >
      {children}
    </chakra.th>
  );
}

function Top({ children }: { children: React.ReactNode }) {
  return (
    <chakra.th scope="col" textAlign="left" verticalAlign="top" fontWeight="400" px="2" pb="1.5">
      {children}
    </chakra.th>
  );
}

function Cell({ differs, children }: { differs?: boolean; children?: React.ReactNode }) {
  return (
    <chakra.td
      px="2"
      py="1"
      verticalAlign="top"
      borderTopWidth="1px"
      borderColor="hair"
      bg={differs ? "warn" : undefined}
      overflowWrap="anywhere"
    >
      {children}
    </chakra.td>
  );
}

/** Marked is a title whose words another title has not are marked. */
export function Marked({ text, against }: { text: string; against: string }) {
  const plain = (w: string) => w.toLowerCase().replace(/[^\p{L}\p{N}]/gu, "");
  const known = new Set(against.split(/\s+/).map(plain));
  return (
    <>
      {text.split(/(\s+)/).map((w, i) =>
        plain(w) && !known.has(plain(w)) ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: words of one fixed title
          <chakra.mark key={i} bg="warn" color="ink" rounded="2px" textDecoration="underline dotted">
            {w}
          </chakra.mark>
        ) : (
          w
        ),
      )}
    </>
  );
}

/** Barred says why we may not sell on an entry, and notes that leave was asked for. */
function Barred({ candidate: c, site }: { candidate: Candidate; site: number }) {
  const note = useSetApproval((state: "asked" | "given") => ({
    path: { id: site },
    body: { category: c.category, state },
  }));
  return (
    <chakra.span display="flex" gap="2" alignItems="center" flexWrap="wrap">
      <Word tone="bad">{c.barred}</Word>
      {c.barred === "needs leave" &&
        (c.leave === "asked" ? (
          <Button
            size="small"
            onClick={() => note.mutate("given")}
            disabled={note.isPending}
            title="Leave was asked for"
          >
            We have leave now
          </Button>
        ) : (
          <Button size="small" onClick={() => note.mutate("asked")} disabled={note.isPending}>
            Note that we asked for leave
          </Button>
        ))}
    </chakra.span>
  );
}
