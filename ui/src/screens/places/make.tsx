import { chakra } from "@chakra-ui/react";
import { useWatch } from "react-hook-form";
import { connectMarketplace, createPlace } from "../../api/operations";
import { Button, Quiet, Select } from "../../parts/controls";
import { Figure, Form, Line, Text, useKeep } from "../../parts/form";

/** Connect brings in a marketplace's sites, with their categories and fees. */
export function Connect({ onDone }: { onDone: () => void }) {
  const connect = useKeep({
    values: { name: "", address: "" },
    keep: (body: { name: string; address: string }) => connectMarketplace({ body }),
    done: onDone,
  });
  return (
    <Form
      form={connect.form}
      onSubmit={connect.submit}
      error={connect.error}
      label="Connect a marketplace"
      focus
      pt="2"
    >
      <Head>Connect a gateway</Head>
      <Quiet display="block" pb="2">
        By its address; the sites, categories and fees come with it.
      </Quiet>
      <Text name="name" label="Name" upright />
      <Text name="address" label="Address of the gateway" hint="https://…" upright />
      <Button type="submit" look="main" disabled={connect.busy} mt="3">
        {connect.busy ? "Asking it…" : "Connect"}
      </Button>
    </Form>
  );
}

const blank = {
  name: "",
  country: "",
  currency: "",
  tax_way: "included" as "included" | "added" | "none",
  tax_rate: "",
  commission: "",
  fixed: "",
  charged: "",
  outbound: "",
  categories: "",
  how: "files" as "files" | "hand" | "shop",
};

/** Make makes a place without a gateway from nothing. */
export function Make({ onDone }: { onDone: (id: number) => void }) {
  const make = useKeep({
    values: blank,
    keep: ({ how, ...body }: typeof blank) =>
      createPlace({ body: { ...body, by_hand: how === "hand", shop: how === "shop" } }),
    done: (made) => onDone(made.id),
  });
  const way = useWatch({ control: make.form.control, name: "tax_way" });
  return (
    <Form form={make.form} onSubmit={make.submit} error={make.error} label="Make a place" focus pt="2">
      <Head>Make a place without a gateway</Head>
      <Quiet display="block" pb="2">
        Its catalogue, and what you have listed there, come from the files that it lets you download. Fees, delivery and
        sending can be changed later, under Price.
      </Quiet>
      <Text name="name" label="What it is called" w="200px" />
      <Text name="country" label="Country, two letters" hint="GB" w="64px" upper />
      <Text name="currency" label="Currency" hint="GBP" w="64px" upper />
      <Line label="Tax in what buyers pay" faults={["tax_way"]}>
        <Select w="150px" h="28px" {...make.form.register("tax_way")}>
          <option value="included">included</option>
          <option value="added">added on top</option>
          <option value="none">none</option>
        </Select>
      </Line>
      {way !== "none" && <Figure name="tax_rate" label="Tax rate, in per cent" />}
      <Figure name="commission" label="It takes of every sale, in per cent" />
      <Figure name="fixed" label="And for each sale, in its currency" />
      <Figure name="charged" label="The buyer pays for delivery" />
      <Figure name="outbound" label="Sending one costs you" />
      <Quiet display="block">Prices are made of these: write 0 where it is nothing.</Quiet>
      <Line label="Categories, one a line" faults={["categories"]} upright>
        <chakra.textarea
          rows={5}
          w="100%"
          p="2"
          bg="panel"
          borderWidth="1px"
          borderColor="hair"
          rounded="5px"
          placeholder={"Kitchen > Mugs\nKitchen > Pots"}
          {...make.form.register("categories")}
        />
      </Line>
      <Quiet display="block">Those that its catalogue names come by themselves.</Quiet>
      <Line label="How it is served" faults={["by_hand", "shop"]} upright>
        <Select w="100%" h="28px" {...make.form.register("how")}>
          <option value="files">by files that I upload there</option>
          <option value="hand">by hand: each listing is typed into its form</option>
          <option value="shop">it is a web shop of my own, on this machine</option>
        </Select>
      </Line>
      <Button type="submit" look="main" disabled={make.busy} mt="3">
        Make it
      </Button>
    </Form>
  );
}

function Head({ children }: { children: React.ReactNode }) {
  return (
    <chakra.h2 fontSize="15.5px" fontWeight="700" pr="12">
      {children}
    </chakra.h2>
  );
}
