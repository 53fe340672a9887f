import { chakra } from "@chakra-ui/react";
import { useForm } from "react-hook-form";
import { setExchangeRate, useFetchExchangeRates, useUploadExchangeRates } from "../../api/operations";
import { useRates } from "../../api/queries";
import { Button, Code, FileButton, Input, Quiet, Trouble } from "../../parts/controls";
import { Form, useKeep, Wrong } from "../../parts/form";
import { day } from "../../parts/when";
import { Heading } from "./heading";

/** Rates are how other currencies are changed into one: typed, fetched or from a file. */
export function Rates({ to }: { to: string }) {
  const { data } = useRates();
  const keep = useKeep({
    values: { from: "EUR", rate: "" },
    keep: (v: { from: string; rate: string }) => setExchangeRate({ body: { ...v, to } }),
  });
  const { register } = keep.form;
  return (
    <chakra.section aria-label="Exchange rates" mb="6">
      <Heading>Exchange rates into {to}</Heading>
      {data?.rates
        .filter((r) => r.to === to)
        .map((r) => (
          <chakra.div key={r.from} py="0.5" display="grid" gridTemplateColumns="210px 1fr" gap="3">
            <Code color="ink">
              1 {r.from} = {r.rate} {r.to}
            </Code>
            {r.stale ? (
              <chakra.span color="loss">{r.stale}</chakra.span>
            ) : (
              <Quiet>
                of {day(r.day)}, {r.way || "typed"}
              </Quiet>
            )}
          </chakra.div>
        ))}
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="A rate">
        <chakra.div display="flex" gap="2" alignItems="center" pt="1">
          1
          <Input
            w="64px"
            h="28px"
            aria-label="Currency"
            textTransform="uppercase"
            {...register("from", { setValueAs: (v: string) => v.toUpperCase() })}
          />
          =
          <Input figures w="104px" h="28px" aria-label="Rate" placeholder="0.8612" {...register("rate")} />
          {to}
          <Button type="submit" size="small" disabled={keep.busy}>
            Keep
          </Button>
        </chakra.div>
        <Wrong of={["from", "rate", "to"]} />
      </Form>
      <Fetched key={data?.address} address={data?.address ?? ""} />
    </chakra.section>
  );
}

/** Fetched takes rates from an address or out of a file. */
function Fetched({ address }: { address: string }) {
  const form = useForm({ defaultValues: { address } });
  const fetched = useFetchExchangeRates((body: { address: string }) => ({ body }));
  const taken = useUploadExchangeRates((body: string) => ({ body }));
  return (
    <Form
      form={form}
      label="Rates from elsewhere"
      error={fetched.error}
      onSubmit={form.handleSubmit((v) => fetched.mutate(v))}
    >
      <chakra.div display="flex" gap="2" alignItems="center" pt="3">
        <Input
          flex="1"
          minW="0"
          h="28px"
          aria-label="Address of exchange rates"
          placeholder="https://… to fetch them from, every day"
          {...form.register("address")}
        />
        <Button type="submit" size="small" disabled={fetched.isPending}>
          Fetch now
        </Button>
        <FileButton
          label="File of exchange rates"
          accept=".csv,text/csv"
          title="CSV with the columns from, to, rate and day"
          onText={(text) => taken.mutate(text)}
        >
          From a file
        </FileButton>
      </chakra.div>
      <Wrong of={["address"]} />
      {fetched.isSuccess && <Quiet>{fetched.data.count} rates fetched.</Quiet>}
      {taken.isSuccess && <Quiet>{taken.data.count} rates taken.</Quiet>}
      <Trouble error={taken.error} />
    </Form>
  );
}
