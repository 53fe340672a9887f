import { chakra } from "@chakra-ui/react";
import { Problem } from "../api/client";
import { Button, Head, Quiet } from "./controls";

/** isClash tells of an error that somebody else has changed the same thing. */
export const isClash = (error: unknown): error is Problem => error instanceof Problem && error.status === 412;

type Flat = Map<string, string>;

/** flat is a thing as names and values, however deep they are. */
function flat(x: unknown, name = "", into: Flat = new Map()): Flat {
  if (x === null || x === undefined || x === "") return into;
  if (typeof x !== "object") into.set(name, String(x));
  else
    for (const [k, v] of Object.entries(x)) flat(v, name ? `${name} ${Array.isArray(x) ? Number(k) + 1 : k}` : k, into);
  return into;
}

/** differences are the names whose values differ between two versions, of those that mine writes. */
export function differences(mine: unknown, theirs: unknown): [name: string, mine: string, theirs: string][] {
  const [a, b] = [flat(mine), flat(theirs)];
  const written = new Set(Object.keys((mine ?? {}) as object));
  const names = [...new Set([...a.keys(), ...b.keys()])].filter((n) => written.has(n.split(" ")[0]));
  return names
    .filter((n) => n !== "version" && n !== "id" && a.get(n) !== b.get(n))
    .map((n) => [n.replaceAll("_", " "), a.get(n) ?? "", b.get(n) ?? ""]);
}

type ClashProps = {
  error: unknown;
  mine: unknown; // what was to be kept
  written?: (current: unknown) => unknown; // what of the thing as it is now is written by the form
  onMine: (version: number | undefined) => void;
  onTheirs: (theirs: unknown) => void;
};

/** Clash shows both versions of what somebody else has changed meanwhile, and lets the person choose. */
export function Clash({ error, mine, written = (x) => x, onMine, onTheirs }: ClashProps) {
  if (!isClash(error)) return null;
  const theirs = written(error.current);
  const version = (error.current as { version?: number } | null)?.version;
  const rows = differences(mine, theirs);
  return (
    <chakra.section
      role="alert"
      aria-label="Changed by somebody else"
      bg="warn"
      borderLeftWidth="3px"
      borderColor="loss"
      px="3"
      py="2"
      my="2"
    >
      <chakra.p fontWeight="700">Somebody else changed this since you opened it. Yours is not kept yet.</chakra.p>
      {rows.length > 0 ? (
        <chakra.table w="100%" my="1">
          <thead>
            <tr>
              <Head left>What differs</Head>
              <Head>Yours</Head>
              <Head>Theirs, kept now</Head>
            </tr>
          </thead>
          <tbody>
            {rows.map(([name, a, b]) => (
              <tr key={name}>
                <chakra.td py="0.5">{name}</chakra.td>
                <chakra.td textAlign="right" fontFamily="mono" pl="3">
                  {a || "–"}
                </chakra.td>
                <chakra.td textAlign="right" fontFamily="mono" pl="3">
                  {b || "–"}
                </chakra.td>
              </tr>
            ))}
          </tbody>
        </chakra.table>
      ) : (
        <Quiet display="block">Both say the same.</Quiet>
      )}
      <chakra.div display="flex" gap="2" pt="1">
        <Button size="small" onClick={() => onMine(version)}>
          Keep mine in its place
        </Button>
        <Button size="small" onClick={() => onTheirs(theirs)}>
          Take theirs
        </Button>
      </chakra.div>
    </chakra.section>
  );
}
