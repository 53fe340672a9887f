import { useRequestBrand } from "../../api/operations";
import { Button, Quiet, Trouble } from "../../parts/controls";
import type { Prepared } from "./queries";

/** BrandAsk asks the place to put a listing's brand on its register, where it
 * isn't there, and says what became of that. */
export function BrandAsk({ l, brand }: { l: Prepared; brand: string }) {
  const ask = useRequestBrand((state: "asked" | "given") => ({ path: { id: l.site_id }, body: { brand, state } }));
  return (
    <div>
      {l.brand_asked === "refused" ? (
        <Quiet fontSize="12.5px">{l.site} refused to put it on its register.</Quiet>
      ) : l.brand_asked === "asked" ? (
        <>
          <Quiet fontSize="12.5px">{l.site} was asked for it; the listing waits. </Quiet>
          <Button size="small" disabled={ask.isPending} onClick={() => ask.mutate("given")}>
            It is given
          </Button>
        </>
      ) : (
        <Button size="small" disabled={ask.isPending} onClick={() => ask.mutate("asked")}>
          Note that it was asked for
        </Button>
      )}
      <Trouble error={ask.error} />
    </div>
  );
}
