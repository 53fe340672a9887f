import { chakra } from "@chakra-ui/react";
import { useDeferredValue } from "react";
import { useFieldArray, useWatch } from "react-hook-form";
import { Link } from "react-router";
import { ifMatch, type Schemas } from "../../api/client";
import { updateTerms } from "../../api/operations";
import { Button, Input, Quiet, Select } from "../../parts/controls";
import { Figure, Form, useKeep, Wrong } from "../../parts/form";
import { Heading } from "./heading";
import { Postage } from "./postage";
import { keepAnd, PreviewPane } from "./preview";
import { useSitePreview } from "./queries";
import { Rates } from "./rates";

type Site = Schemas["SiteView"];
type SiteTerms = Schemas["SiteTerms"];

/** Terms are what holds for all that is sold on a site, and how currencies are changed. */
export function Terms({ site }: { site: Site | undefined }) {
  return (
    <chakra.div
      overflowY="auto"
      flex="1"
      pt="3"
      display="grid"
      gridTemplateColumns="minmax(0, 1fr) 440px"
      columnGap="8"
      alignContent="start"
      maxW="1120px"
    >
      {site && <ForAll key={site.id} site={site} />}
      <Rates to={site?.currency ?? "GBP"} />
    </chakra.div>
  );
}

/** ForAll is what holds for all on a site: delivery, our own work, what is put by. */
function ForAll({ site }: { site: Site }) {
  const keep = useKeep<SiteTerms, unknown>({
    values: site.terms,
    version: site.version,
    written: (now) => (now as Site).terms,
    keep: (body, version) => updateTerms({ path: { id: site.id }, header: ifMatch(version), body }),
  });
  const { control, register } = keep.form;
  const [delivery, sending] = useWatch({ control, name: ["delivery_bands", "sending_bands"] });
  const written = useWatch({ control }) as SiteTerms;
  const { isDirty } = keep.form.formState;
  const asked = useDeferredValue(written);
  const preview = useSitePreview(site.id, { terms: asked }, isDirty);
  const allowances = useFieldArray({ control, name: "allowances" });
  return (
    <>
      <Form
        form={keep.form}
        onSubmit={keep.submit}
        error={keep.error ?? (isDirty ? preview.error : null)}
        label="What holds for all"
        mb="7"
      >
        <Heading>What holds for all on {site.name}</Heading>
        {site.terms_unsaid && (
          <chakra.p color="loss" pb="2">
            Nothing is priced here until you say what the buyer pays for delivery and what sending one costs you: 0
            where it is nothing.
          </chakra.p>
        )}
        {!delivery?.length && <Figure name="charged" label="The buyer pays for delivery" unit={site.currency} />}
        <Postage name="delivery_bands" title="What the buyer pays for delivery" from flat="charged" />
        {!sending?.length && <Figure name="outbound" label="Sending one costs you" unit={site.currency} />}
        <Postage name="sending_bands" title="What sending costs you" flat="outbound" />
        <Figure name="handling" label="Your own work for each" unit={site.currency} />
        <Figure name="cushion" label="Cushion on costs in another currency" unit="" />
        {allowances.fields.map((a, i) => (
          <chakra.div key={a.id} display="flex" gap="2" alignItems="center" py="0.5">
            put by for
            <Input
              flex="1"
              minW="0"
              h="28px"
              aria-label={`Put by for ${i + 1}`}
              {...register(`allowances.${i}.name`)}
            />
            <Input
              figures
              w="70px"
              h="28px"
              aria-label={`Share put by ${i + 1}`}
              {...register(`allowances.${i}.rate`)}
            />
            <Select aria-label={`Of what ${i + 1}`} {...register(`allowances.${i}.of`)}>
              <option value="item">of the item price</option>
              <option value="total">of item and delivery</option>
              <option value="total+tax">of all, tax too</option>
            </Select>
            <Button
              size="small"
              look="plain"
              aria-label={`Nothing put by for ${a.name}`}
              onClick={() => allowances.remove(i)}
            >
              ×
            </Button>
          </chakra.div>
        ))}
        <Wrong of={["allowances"]} />
        {keep.clash}
        <chakra.div display="flex" gap="3" alignItems="center" pt="2">
          <Button type="submit" size="small" look={site.terms_unsaid ? "main" : undefined} disabled={keep.busy}>
            {keepAnd("Keep", isDirty ? preview.data?.at_once : 0)}
          </Button>
          <Button size="small" onClick={() => allowances.append({ name: "returns", of: "item", rate: "2%" })}>
            Put something by
          </Button>
          {keep.kept && !isDirty && <Quiet>Kept; prices are worked out anew.</Quiet>}
        </chakra.div>
      </Form>
      {isDirty ? (
        <PreviewPane site={site.id} preview={preview.data} busy={preview.isFetching} wrong={!!preview.error} />
      ) : (
        <Quiet>
          What may move by itself on a site, and what waits for you, is set under{" "}
          <Link to="/watch?tab=follow">Watch, How it follows</Link>.
        </Quiet>
      )}
    </>
  );
}
