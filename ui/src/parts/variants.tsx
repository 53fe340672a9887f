import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { useSetListingOnSale } from "../api/operations";
import { useVariants } from "../api/queries";
import { Code, Quiet, Trouble, Word } from "./controls";
import { Money } from "./money";

/** Variants are a product's variants on one site, and which of them are to be sold there. */
export function Variants({ listing, heading }: { listing: number; heading: React.ReactNode }) {
  const { data } = useVariants(listing);
  const sell = useSetListingOnSale((x: { id: number; sold: boolean }) => ({
    path: { id: x.id },
    body: { sold: x.sold },
  }));
  if (!data || data.length < 2) return null;
  return (
    <section aria-label="Variants">
      {heading}
      {data.map((v) => (
        <chakra.label
          key={v.listing_id}
          display="grid"
          gridTemplateColumns="20px 1fr 84px 92px 66px"
          gap="2"
          alignItems="center"
          py="0.5"
          fontWeight={v.listing_id === listing ? "700" : "400"}
        >
          <input
            type="checkbox"
            checked={v.sold}
            disabled={sell.isPending}
            aria-label={`Sell ${v.variant} on ${v.site}`}
            onChange={(e) => sell.mutate({ id: v.listing_id, sold: e.target.checked })}
          />
          <chakra.span truncate>{v.variant}</chakra.span>
          <Code>{v.sku}</Code>
          <chakra.span textAlign="right">
            <Money minor={v.price} currency={v.currency} unit fontSize="12.5px" />
          </chakra.span>
          <Word>{v.state}</Word>
        </chakra.label>
      ))}
      <Link to={`/price?pick=${data.map((v) => v.listing_id).join(",")}`}>
        <chakra.span textDecoration="underline" textUnderlineOffset="3px">
          Change their prices together
        </chakra.span>
      </Link>
      <Quiet fontSize="12px" display="block">
        One that is not ticked is offered as none here; where it is live, a plan says so first.
      </Quiet>
      <Trouble error={sell.error} />
    </section>
  );
}
