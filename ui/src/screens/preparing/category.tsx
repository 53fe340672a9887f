import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useSearchCategories, useSetPreparationsCategory } from "../../api/operations";
import { Button, Input, Quiet, Trouble, Word } from "../../parts/controls";
import { Money } from "../../parts/money";
import { LeaveAsk } from "./leaveask";
import type { Prepared } from "./queries";

/** Category is where a listing stands on its site: searched by words, or walked
 * from the top, with what a sale would cost there. It is fixed once on sale. */
export function Category({ l }: { l: Prepared }) {
  const [open, setOpen] = useState(l.category === "");
  const [words, setWords] = useState("");
  const [below, setBelow] = useState("");
  const now = l.categories.find((c) => c.ref === l.category);
  const found = useSearchCategories(
    { path: { id: l.id }, query: { words, below } },
    { enabled: open && !l.fixed, keep: true },
  );
  const put = useSetPreparationsCategory((ref: string) => ({ body: { ids: [l.id], category: ref } }));
  const up = l.categories
    .find((c) => c.ref === below)
    ?.path.split(" › ")
    .slice(0, -1)
    .join(" › ");
  return (
    <section aria-label="Category">
      <chakra.h2 fontWeight="700" mt="1">
        Category
      </chakra.h2>
      <chakra.div display="flex" gap="2" alignItems="center">
        <chakra.span flex="1">{now?.path ?? <chakra.span color="loss">none yet</chakra.span>}</chakra.span>
        {!l.fixed && (
          <Button size="small" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Leave it" : "Another"}
          </Button>
        )}
      </chakra.div>
      <Trouble error={found.error ?? put.error} />
      {open && !l.fixed && (
        <chakra.div mt="1">
          <Input
            h="28px"
            w="100%"
            type="search"
            aria-label="Search categories"
            placeholder="Words of it, or walk down"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
          {below && !words && (
            <Button
              size="small"
              look="plain"
              onClick={() => setBelow(l.categories.find((c) => c.path === up)?.ref ?? "")}
            >
              ↑ {up || "the top"}
            </Button>
          )}
          <chakra.ul listStyleType="none" maxH="260px" overflowY="auto" mt="1">
            {found.data?.map((c) => (
              <chakra.li
                key={c.ref}
                display="flex"
                gap="1"
                alignItems="center"
                flexWrap="wrap"
                py="0.5"
                borderBottomWidth="1px"
                borderColor="hair"
              >
                <chakra.button
                  type="button"
                  flex="1"
                  textAlign="left"
                  minH="26px"
                  cursor="pointer"
                  fontWeight={c.ref === l.category ? "700" : "400"}
                  onClick={() => put.mutate(c.ref, { onSuccess: () => setOpen(false) })}
                >
                  {words || below
                    ? c.path
                        .split(" › ")
                        .slice(below && !words ? -1 : 0)
                        .join(" › ")
                    : c.path}{" "}
                  {c.guess && <Word tone="good">likely</Word>}
                  {c.fees != null && (
                    <Quiet display="block" fontSize="12px">
                      fees <Money minor={c.fees} currency={l.currency} />, left{" "}
                      <Money minor={c.left} currency={l.currency} sign />
                    </Quiet>
                  )}
                </chakra.button>
                <LeaveAsk site={l.site_id} category={c} />
                {c.inner && !words && (
                  <Button
                    size="small"
                    look="plain"
                    aria-label={`Those below ${c.path}`}
                    onClick={() => setBelow(c.ref)}
                  >
                    ›
                  </Button>
                )}
              </chakra.li>
            ))}
          </chakra.ul>
        </chakra.div>
      )}
      <Quiet fontSize="12.5px" display="block" mt="1">
        {l.fixed
          ? "It is on sale: its category stays."
          : l.asked_at
            ? "What it asks for was read from the place."
            : "Nothing was read of what it asks for yet."}
      </Quiet>
    </section>
  );
}
