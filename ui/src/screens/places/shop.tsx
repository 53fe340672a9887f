import { chakra } from "@chakra-ui/react";
import { ifMatch, type Schemas } from "../../api/client";
import { updateShop, useGetShop } from "../../api/operations";
import { useDo } from "../../api/queries";
import { Button, Code, Input, Quiet, Trouble } from "../../parts/controls";
import { Drop } from "../../parts/drop";
import { Form, Line, Text, useKeep } from "../../parts/form";

type Shop = Schemas["ShopView"];
type Looks = Omit<Shop, "version" | "address" | "$schema">;

const looksOf = ({ name, motto, colour, ground, picture, about, terms }: Shop): Looks => ({
  name,
  motto: motto ?? "",
  colour,
  ground,
  picture: picture ?? "",
  about: about ?? "",
  terms: terms ?? "",
});

/** OwnShop is how the shop of one's own looks, and where buyers find it. */
export function OwnShop({ site }: { site: number }) {
  const { data, error, refetch } = useGetShop();
  if (!data) return <Trouble error={error} retry={refetch} />;
  return <LooksForm site={site} shop={data} />;
}

function LooksForm({ site, shop }: { site: number; shop: Shop }) {
  const keep = useKeep<Looks, unknown>({
    values: looksOf(shop),
    version: shop.version,
    written: (now) => looksOf(now as Shop),
    keep: (body, version) => updateShop({ header: ifMatch(version), body }),
  });
  const bring = useDo(async (f: File) => {
    const res = await fetch(`/api/v1/sites/${site}/shop-picture?name=${encodeURIComponent(f.name)}`, {
      method: "POST",
      headers: { "Content-Type": "application/octet-stream" },
      body: f,
    });
    const said = await res.json();
    if (!res.ok) throw new Error(said.detail);
    keep.form.setValue("picture", said.digest, { shouldDirty: true });
  });
  return (
    <chakra.section aria-label="How the shop looks" pt="3">
      {shop.address ? (
        <chakra.p pb="2">
          Buyers find it at{" "}
          <chakra.a href={shop.address} target="_blank" rel="noreferrer" textDecoration="underline">
            <Code color="ink">{shop.address}</Code>
          </chakra.a>
        </chakra.p>
      ) : (
        <chakra.p pb="2">
          It isn't served anywhere yet: start the program with <Code>--shop 127.0.0.1:8650</Code>
        </chakra.p>
      )}
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="How the shop looks" pr="1">
        <Text name="name" label="Its name" w="220px" />
        <Text name="motto" label="A line below it" w="220px" />
        {(["colour", "ground"] as const).map((name) => (
          <Line key={name} label={name === "colour" ? "Head and buttons" : "The page"} faults={[name]}>
            <Input type="color" w="64px" h="28px" p="0.5" {...keep.form.register(name)} />
            <Code>{keep.form.watch(name)}</Code>
          </Line>
        ))}
        {(["terms", "about"] as const).map((name) => (
          <Line
            key={name}
            label={name === "terms" ? "Delivery and returns" : "Who sells here, and how to reach them"}
            faults={[name]}
            upright
          >
            <chakra.textarea
              aria-label={name === "terms" ? "Delivery and returns" : "Who sells here"}
              rows={4}
              w="100%"
              p="2"
              bg="panel"
              borderWidth="1px"
              borderColor="hair"
              rounded="5px"
              {...keep.form.register(name)}
            />
          </Line>
        ))}
        <Drop
          title="A picture on its first page"
          more={keep.form.watch("picture") ? "There is one; another takes its place." : "Wide ones fit best."}
          busy={bring.isPending}
          error={bring.error}
          onFile={(f) => bring.mutate(f)}
        />
        {keep.clash}
        <chakra.div display="flex" gap="3" alignItems="center" py="2">
          <Button type="submit" look="main" disabled={keep.busy || !keep.form.formState.isDirty}>
            Have it look so
          </Button>
          {keep.kept && <Quiet role="status">Kept.</Quiet>}
        </chakra.div>
      </Form>
    </chakra.section>
  );
}
