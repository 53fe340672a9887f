import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../../api/client";
import { Quiet } from "../../../parts/controls";

/** Touched says whom a change would touch, before it is kept. */
export function Touched({ of }: { of: Schemas["Touched"] | undefined }) {
  if (!of) return <Quiet role="status">Looking whom it touches…</Quiet>;
  const parts = [
    of.listings === 0
      ? "No listing would say anything else"
      : `${of.listings} ${of.listings === 1 ? "listing" : "listings"} would say something else`,
    of.ready > 0 && `${of.ready} would lack nothing any more`,
    of.lacking > 0 && `${of.lacking} would lack something then`,
    of.live > 0 && `${of.live} are on sale, and stay there as they were sent`,
  ].filter(Boolean);
  return (
    <chakra.div role="status">
      {parts.join("; ")}.
      {of.titles.length > 0 && (
        <Quiet display="block" fontSize="12.5px">
          {of.titles.slice(0, 4).join(" · ")}
          {of.listings > 4 && ` · and ${of.listings - 4} more`}
        </Quiet>
      )}
    </chakra.div>
  );
}
