import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useListings } from "../../api/queries";
import { Button, Code, Input, Quiet } from "../../parts/controls";

/** priceField is where a person goes on once a product is chosen. */
export const priceField = "bench-price";

type PickerProps = { title?: string; sku?: string; product: number; onPick: (product: number) => void };

/** Picker chooses a product of ours by words, SKU or number; without one the figures are loose. */
export function Picker({ title, sku, product, onPick }: PickerProps) {
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const { rows, loading } = useListings({ words }, words.length > 1);
  const seen = new Set<number>();
  const found =
    words.length > 1 ? rows.filter((r) => !seen.has(r.product_id) && seen.add(r.product_id)).slice(0, 8) : [];
  const choose = (id: number) => {
    setWords("");
    setAt(0);
    onPick(id);
    document.getElementById(priceField)?.focus();
  };
  return (
    <chakra.div position="relative" mb="3">
      <chakra.div minH="44px" mb="1">
        {product ? (
          <>
            <chakra.h2 fontWeight="700" fontSize="15px">
              {title || "Reading…"}
            </chakra.h2>
            <Code>{sku}</Code>
          </>
        ) : (
          <>
            <chakra.h2 fontWeight="700" fontSize="15px">
              Loose figures
            </chakra.h2>
            <Quiet>what a product would cost and leave, before there is one</Quiet>
          </>
        )}
      </chakra.div>
      <chakra.div display="flex" gap="2">
        <Input
          flex="1"
          minW="0"
          type="search"
          aria-label="Find a product for the bench"
          placeholder="Another product"
          value={words}
          onChange={(e) => {
            setWords(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            if (e.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
            else if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
            else if (e.key === "Enter" && found[at]) choose(found[at].product_id);
            else return;
            e.preventDefault();
          }}
        />
        {product !== 0 && <Button onClick={() => choose(0)}>Loose figures</Button>}
      </chakra.div>
      {words.length > 1 && !loading && found.length === 0 && (
        <Quiet display="block" pt="1">
          Nothing we sell is called that.
        </Quiet>
      )}
      {found.length > 0 && (
        <chakra.ul
          aria-label="Products found"
          position="absolute"
          zIndex="5"
          left="0"
          right="0"
          bg="panel"
          borderWidth="1px"
          borderColor="hair"
          rounded="4px"
          boxShadow="lifted"
        >
          {found.map((r, i) => (
            <li key={r.product_id}>
              <chakra.button
                type="button"
                w="100%"
                textAlign="left"
                px="2"
                py="1"
                bg={i === at ? "tint" : undefined}
                onMouseDown={(e) => {
                  e.preventDefault();
                  choose(r.product_id);
                }}
              >
                <chakra.span display="block" truncate>
                  {r.title}
                </chakra.span>
                <Code>{r.sku}</Code>
              </chakra.button>
            </li>
          ))}
        </chakra.ul>
      )}
    </chakra.div>
  );
}
