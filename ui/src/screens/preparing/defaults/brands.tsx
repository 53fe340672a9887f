import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useRequestBrand } from "../../../api/operations";
import { Button, Input, Quiet, Select, Trouble } from "../../../parts/controls";

type Props = { site: number; brands: Schemas["BrandAsked"][] };
type State = Schemas["BrandAsked"]["state"];

/** Brands are those that the place was asked to put on its register, and what
 * became of that. From *given* on, one counts as being there. */
export function Brands({ site, brands }: Props) {
  const [brand, setBrand] = useState("");
  const put = useRequestBrand((body: Schemas["NewBrand"]) => ({ path: { id: site }, body }));
  return (
    <section aria-label="Brands asked for">
      <chakra.h2 fontWeight="700" mt="4" mb="1">
        Brands asked for
      </chakra.h2>
      {brands.map((b) => (
        <chakra.div key={b.brand} display="flex" gap="2" alignItems="center" py="0.5">
          <chakra.span flex="1" truncate title={b.comment}>
            {b.brand}
          </chakra.span>
          <Select
            w="100px"
            h="26px"
            aria-label={`What became of ${b.brand}`}
            value={b.state}
            onChange={(e) =>
              put.mutate({
                brand: b.brand,
                state: e.currentTarget.value as State,
                comment: b.comment,
                picture: b.picture,
              })
            }
          >
            <option value="asked">asked</option>
            <option value="given">given</option>
            <option value="refused">refused</option>
          </Select>
        </chakra.div>
      ))}
      {brands.length === 0 && (
        <Quiet fontSize="12.5px">None. One that isn't on the register is asked for in its listing, or here.</Quiet>
      )}
      <Trouble error={put.error} />
      <chakra.form
        display="flex"
        gap="2"
        mt="1"
        onSubmit={(e) => {
          e.preventDefault();
          if (brand.trim()) put.mutate({ brand, state: "asked" }, { onSuccess: () => setBrand("") });
        }}
      >
        <Input
          h="26px"
          flex="1"
          aria-label="A brand to ask for"
          placeholder="a brand"
          value={brand}
          onChange={(e) => setBrand(e.target.value)}
        />
        <Button size="small" type="submit" disabled={!brand.trim()}>
          Ask
        </Button>
      </chakra.form>
    </section>
  );
}
