import { chakra } from "@chakra-ui/react";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { useSites, useSources } from "../api/queries";
import { useAddress } from "./address";
import { Input, Select } from "./controls";

/** useTyped is what is typed into a field that an address follows: it keeps every key however late the address
 * comes, and takes the address's words up again once the field is left. */
export function useTyped(words: string, go: (words: string) => void) {
  const [typed, setTyped] = useState(words);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (document.activeElement !== field.current) setTyped(words);
  }, [words]);
  return {
    ref: field,
    value: typed,
    onChange: (e: { target: { value: string } }) => {
      setTyped(e.target.value);
      go(e.target.value);
    },
    onBlur: () => setTyped(words),
  };
}

/** useNarrowed is what a list of listings is narrowed to by its address. */
export function useNarrowed() {
  const a = useAddress();
  return {
    words: a.get("q") || undefined,
    site: Number(a.get("site")) || undefined,
    supplier: Number(a.get("supplier")) || undefined,
    state: a.get("state") || undefined,
  };
}

const states = ["ready", "sent", "live", "refused", "paused", "unpriced"];

type Props = { words?: boolean; site?: boolean; state?: boolean; children?: ReactNode };

/** Narrow searches and filters a list of listings: by words, site, supplier and state. The address keeps it. */
export function Narrow({ words, site, state, children }: Props) {
  const a = useAddress();
  const { data: sites } = useSites();
  const { data: sources } = useSources();
  const suppliers = [...new Map(sources?.map((s) => [s.supplier_id, s.supplier])).entries()];
  const field = useTyped(a.get("q"), (q) => a.put({ q: q || null }));
  const pick = (name: string, label: string, all: string, options: [string, string][]) =>
    options.length > 1 && (
      <Select
        h="30px"
        w="auto"
        maxW="200px"
        aria-label={label}
        value={a.get(name)}
        onChange={(e) => a.put({ [name]: e.target.value || null })}
      >
        <option value="">{all}</option>
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </Select>
    );
  return (
    <chakra.div role="search" display="flex" gap="2" alignItems="center" py="2" flexWrap="wrap">
      {words && (
        <Input
          h="30px"
          w="220px"
          type="search"
          aria-label="Words, SKU or number"
          placeholder="Words, SKU or number"
          {...field}
        />
      )}
      {site &&
        pick("site", "Site", "every site", sites?.filter((s) => s.lists).map((s) => [String(s.id), s.name]) ?? [])}
      {pick(
        "supplier",
        "Supplier",
        "every supplier",
        suppliers.map(([id, name]) => [String(id), name]),
      )}
      {state &&
        pick(
          "state",
          "State",
          "every state",
          states.map((s) => [s, s]),
        )}
      <chakra.span flex="1" />
      {children}
    </chakra.div>
  );
}
