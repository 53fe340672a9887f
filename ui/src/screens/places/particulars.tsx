import { chakra } from "@chakra-ui/react";
import { useDeferredValue } from "react";
import { useFieldArray, useWatch } from "react-hook-form";
import { ifMatch, type Schemas } from "../../api/client";
import { updateSite } from "../../api/operations";
import { useSites } from "../../api/queries";
import { Button, Input, Quiet, Select } from "../../parts/controls";
import { Figure, Form, Line, Text, useKeep, Wrong } from "../../parts/form";
import { keepAnd, PreviewPane } from "../prices/preview";
import { useSitePreview } from "../prices/queries";

type Site = Schemas["SiteView"];
type Written = Schemas["SiteParticulars"];

/** Particulars puts a place right: its name, where and in what it sells, and the tax in what buyers pay,
 * with what that would do to its prices. */
export function Particulars({ id, onDone }: { id: number; onDone: () => void }) {
  const site = useSites().data?.find((s) => s.id === id);
  return site ? <ParticularsForm site={site} onDone={onDone} /> : null;
}

function ParticularsForm({ site, onDone }: { site: Site; onDone: () => void }) {
  const keep = useKeep<Written, unknown>({
    values: site.particulars,
    version: site.version,
    written: (now) => (now as Site).particulars,
    keep: (body, version) => updateSite({ path: { id: site.id }, header: ifMatch(version), body }),
    done: onDone,
  });
  const { control, register, formState } = keep.form;
  const written = useWatch({ control }) as Written;
  const rates = useFieldArray({ control, name: "tax_rates" });
  const moves = formState.isDirty && !same(written, site.particulars);
  const asked = useDeferredValue(written);
  const preview = useSitePreview(site.id, { particulars: asked }, moves);
  const gateway = site.address !== "" && site.kind !== "shop";
  return (
    <Form
      form={keep.form}
      onSubmit={keep.submit}
      error={keep.error ?? (moves ? preview.error : null)}
      label="What the place is"
      focus
      py="2"
    >
      <Text name="name" label="What it is called" w="200px" />
      <Text name="country" label="Country, two letters" w="64px" upper fixed={gateway} />
      <Text name="currency" label="Currency" w="64px" upper fixed={gateway} />
      {gateway && <Quiet display="block">Where it sells and in what is what its gateway says.</Quiet>}
      <Line label="Tax in what buyers pay" faults={["tax_way"]}>
        <Select w="150px" h="28px" {...register("tax_way")}>
          <option value="included">included</option>
          <option value="added">added on top</option>
          <option value="none">none</option>
        </Select>
      </Line>
      {written.tax_way !== "none" && (
        <>
          <Figure name="tax_rate" label="Tax rate, in per cent" />
          {rates.fields.map((r, i) => (
            <chakra.div key={r.id} display="flex" gap="2" alignItems="center" py="0.5">
              <Input
                w="64px"
                h="28px"
                placeholder="any"
                textTransform="uppercase"
                _placeholder={{ textTransform: "none" }}
                aria-label={`Buyer's country of rate ${i + 1}`}
                {...register(`tax_rates.${i}.country`)}
              />
              from
              <Input
                w="112px"
                h="28px"
                placeholder="always"
                aria-label={`First day of rate ${i + 1}`}
                {...register(`tax_rates.${i}.from`)}
              />
              <Input figures w="70px" h="28px" aria-label={`Rate ${i + 1}`} {...register(`tax_rates.${i}.rate`)} />
              <Button size="small" look="plain" aria-label={`Without rate ${i + 1}`} onClick={() => rates.remove(i)}>
                ×
              </Button>
            </chakra.div>
          ))}
          <Wrong of={["tax_rates"]} />
          <Button size="small" look="plain" onClick={() => rates.append({ country: "", from: "", rate: "" })}>
            Another rate, by buyer's country or from a day on…
          </Button>
        </>
      )}
      {keep.clash}
      <chakra.div display="flex" gap="3" pt="2">
        <Button type="submit" look="main" disabled={keep.busy || !formState.isDirty}>
          {keepAnd("Keep", moves ? preview.data?.at_once : 0)}
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </chakra.div>
      {moves && (
        <chakra.div pt="3">
          <PreviewPane site={site.id} preview={preview.data} busy={preview.isFetching} wrong={!!preview.error} />
        </chakra.div>
      )}
    </Form>
  );
}

/** same tells whether nothing but the name differs: a name moves no price. */
const same = (a: Written, b: Written) => JSON.stringify({ ...a, name: "" }) === JSON.stringify({ ...b, name: "" });
