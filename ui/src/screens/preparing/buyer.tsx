import { chakra } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { Button, Quiet } from "../../parts/controls";
import { money } from "../../parts/money";
import { Thumb } from "../../parts/picture";
import type { Prepared } from "./queries";
import { nameOf } from "./words";

/** Buyer is the listing as its buyers will see it, wide or as on a telephone. */
export function Buyer({ l }: { l: Prepared }) {
  const [narrow, setNarrow] = useState(false);
  const facts = l.fields.filter((f) => f.asked && f.level !== "stops" && f.need !== "does not apply" && f.value);
  const brand = l.fields.find((f) => f.field === "brand")?.value;
  return (
    <chakra.section aria-label="As buyers see it" pb="6">
      <chakra.div display="flex" gap="2" alignItems="center" mb="3">
        <Quiet flex="1">About how {l.site} shows it. Its price and stock are those of now.</Quiet>
        <Button size="small" aria-pressed={narrow} onClick={() => setNarrow(!narrow)}>
          {narrow ? "As on a wide screen" : "As on a telephone"}
        </Button>
      </chakra.div>
      <chakra.article
        borderWidth="1px"
        borderColor="hair"
        rounded="6px"
        bg="panel"
        p="5"
        w={narrow ? "360px" : "100%"}
        display="grid"
        gridTemplateColumns={narrow ? "1fr" : "260px 1fr"}
        gap="5"
      >
        <chakra.div>
          <Thumb
            digest={l.pictures[0]?.digest ?? ""}
            size={narrow ? 318 : 258}
            alt={`The leading picture of ${l.title}`}
          />
          <chakra.div display="flex" gap="2" mt="2" flexWrap="wrap">
            {l.pictures.slice(1, 6).map((p, i) => (
              <Thumb key={p.digest} digest={p.digest} size={46} alt={`Picture ${i + 2}`} />
            ))}
          </chakra.div>
        </chakra.div>
        <div>
          <chakra.h2 fontSize="19px" fontWeight="700" lineHeight="1.3">
            {l.title || <Quiet>no title yet</Quiet>}
          </chakra.h2>
          {brand && <Quiet>{brand}</Quiet>}
          <chakra.div fontSize="22px" fontWeight="700" my="2">
            {l.price == null ? <Quiet>no price yet</Quiet> : `${money(l.price, l.currency)} ${l.currency}`}
          </chakra.div>
          {facts.length > 0 && (
            <chakra.dl display="grid" gridTemplateColumns="130px 1fr" rowGap="1" my="3">
              {facts.map((f) => (
                <Fact key={f.field} name={nameOf(f.field)} value={f.sent || f.value} unit={f.asked?.unit} />
              ))}
            </chakra.dl>
          )}
          <chakra.div whiteSpace={l.markup ? undefined : "pre-line"} maxW="60ch">
            {l.markup ? <Markup html={l.buyers} /> : l.buyers}
          </chakra.div>
        </div>
      </chakra.article>
    </chakra.section>
  );
}

function Fact({ name, value, unit }: { name: string; value: string; unit?: string }) {
  const plain = /^-?[\d.]+$/.test(value) && unit ? `${value} ${unit}` : value.replaceAll("|", ", ");
  return (
    <>
      <chakra.dt color="quiet">{name}</chakra.dt>
      <dd>{plain}</dd>
    </>
  );
}

const plainTags = new Set(["p", "b", "i", "strong", "em", "ul", "ol", "li", "br"]);

/** Markup draws safe HTML as elements of our own: whatever else stood in it is
 * drawn as its text, so that nothing of it is ever run. */
export function Markup({ html }: { html: string }) {
  return <>{drawn(new DOMParser().parseFromString(html, "text/html").body)}</>;
}

function drawn(of: Node): ReactNode[] {
  return [...of.childNodes].map((n, i) => {
    if (n.nodeType === Node.TEXT_NODE) return n.textContent;
    if (!(n instanceof Element)) return null;
    const tag = n.localName;
    if (tag === "script" || tag === "style") return null;
    const As = (plainTags.has(tag) ? tag : "span") as "p";
    const key = `${i}${tag}`;
    return tag === "br" ? <br key={key} /> : <As key={key}>{drawn(n)}</As>;
  });
}
