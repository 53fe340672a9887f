import { chakra } from "@chakra-ui/react";
import { useSources } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Empty, Title, Trouble } from "../../parts/controls";
import { Tabs } from "../../parts/tabs";
import { BringIn } from "./bringin";
import { Finds } from "./finds";
import { SettingsPanel } from "./settings";
import { SourceBlock, waiting } from "./source";

/** inOrder puts those first that have a feed to look at. */
const inOrder = <S extends Parameters<typeof waiting>[0]>(list: S[]) => [
  ...list.filter((s) => waiting(s)),
  ...list.filter((s) => !waiting(s)),
];

/** Sources are the ways suppliers' products reach us, where new ones come in, and where all of them are searched. */
export function Sources() {
  const a = useAddress();
  const { data, error, refetch } = useSources();
  const sources = data ?? [];
  const finding = a.get("tab") === "find";
  const open = sources.find((s) => s.id === a.open);
  // What comes next has the key: a feed to look at, else a list never fetched, else another file.
  const next =
    sources.find((s) => waiting(s)) ?? sources.find((s) => s.kind === "address" && s.feeds.length === 0 && !s.taken);
  return (
    <>
      <Title
        title="Sources"
        more={
          finding
            ? "every supplier's products, side by side"
            : sources.length > 0
              ? `${sources.length} ${sources.length === 1 ? "way" : "ways"} suppliers' products reach you`
              : ""
        }
      />
      <Tabs
        label="Parts of Sources"
        tabs={[
          { to: "?", label: "Suppliers", on: !finding },
          { to: "?tab=find", label: "Find and keep", on: finding },
        ]}
      >
        <Trouble error={error} retry={refetch} />
        {finding ? (
          <Finds />
        ) : (
          <>
            <BringIn next={!next} />
            <chakra.div display="flex" flex="1" minH="0" gap="4">
              <chakra.div flex="1" minW="0" overflowY="auto">
                {data && sources.length === 0 && (
                  <Empty title="No supplier yet">
                    Drop a price list above, or give the address one is fetched from. You see what is recognised before
                    anything is kept.
                  </Empty>
                )}
                {inOrder(sources).map((s) => (
                  <SourceBlock
                    key={s.id}
                    source={s}
                    next={s === next}
                    onSet={() => a.setOpen(a.open === s.id ? null : s.id)}
                  />
                ))}
              </chakra.div>
              {open && <SettingsPanel key={open.id} source={open} onClose={() => a.setOpen(null)} />}
            </chakra.div>
          </>
        )}
      </Tabs>
    </>
  );
}
