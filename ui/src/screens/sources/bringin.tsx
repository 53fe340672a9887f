import { chakra } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { capturePage, createSource, useFetchSource, useUploadFeed } from "../../api/operations";
import { Button, Key, Quiet, Trouble } from "../../parts/controls";
import { Form, Text, useKeep } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { Bookmark } from "./bookmark";
import { CostsTax } from "./costs";

type Way = "address" | "page" | "paste" | "hand";

const ways: [Way, string][] = [
  ["address", "A list's address"],
  ["page", "One page"],
  ["paste", "Paste"],
  ["hand", "Type one in"],
];

/** BringIn is every way in on one strip: a file that is dropped or chosen, an
 * address, a page, something pasted, or one product typed in. It has the key of
 * the main action where it is what comes next. */
export function BringIn({ next }: { next: boolean }) {
  const go = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [way, setWay] = useState<Way | null>(null);
  const bring = useUploadFeed((x: { file: Blob; name: string }) => ({ query: { name: x.name }, body: x.file }));
  const take = (x: Blob | undefined, name: string) =>
    x && bring.mutate({ file: x, name }, { onSuccess: (feed) => go(`/sources/feeds/${feed.id}`) });
  useKeys({ ".": () => file.current?.click() }, next, [[".", "choose a file"]]);
  return (
    <chakra.div py="2">
      <chakra.section
        aria-label="Bring in"
        display="flex"
        alignItems="center"
        gap="2"
        px="4"
        py="2.5"
        borderWidth="1.5px"
        borderStyle="dashed"
        borderColor={over ? "action" : "hair"}
        rounded="6px"
        bg={over ? "tint" : "panel"}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          const f = e.dataTransfer.files[0];
          take(f, f?.name);
        }}
      >
        <chakra.div flex="1" minW="0">
          <chakra.div fontWeight="600">
            {bring.isPending ? "Receiving and looking at it…" : "Drop a price list or a saved page here"}
          </chakra.div>
          <Quiet display="block" truncate>
            CSV and the like, XLSX, JSON, XML or HTML, zipped or not, up to 512 MiB
          </Quiet>
        </chakra.div>
        <input
          ref={file}
          type="file"
          hidden
          data-testid="file"
          onChange={(e) => {
            const f = e.target.files?.[0];
            take(f, f?.name ?? "");
          }}
        />
        <Button look={next ? "main" : undefined} onClick={() => file.current?.click()} disabled={bring.isPending}>
          Choose a file {next && <Key>.</Key>}
        </Button>
        {ways.map(([w, label]) => (
          <Button key={w} aria-expanded={way === w} onClick={() => setWay(way === w ? null : w)}>
            {label}
          </Button>
        ))}
      </chakra.section>
      <Trouble error={bring.error} />
      {way === "address" && <AddAddress onDone={() => setWay(null)} />}
      {way === "page" && <AddPage />}
      {way === "paste" && <Paste onTake={(text) => take(new Blob([text]), "pasted")} />}
      {way === "hand" && <ByHand onTake={(text) => take(new Blob([text]), "typed in")} />}
    </chakra.div>
  );
}

const across = { display: "flex", gap: "3", alignItems: "flex-end", flexWrap: "wrap", pt: "2" } as const;

const list = {
  supplier: "",
  address: "",
  currency: "GBP",
  charge: "",
  tax: "" as NonNullable<Schemas["NewSource"]["tax"]> | "",
  tax_rate: "",
  free_from: "",
  every: "15",
  username: "",
  password: "",
};

function AddAddress({ onDone }: { onDone: () => void }) {
  const fetchIt = useFetchSource((id: number) => ({ path: { id } }));
  const keep = useKeep({
    values: list,
    keep: (x: typeof list) => createSource({ body: { ...x, tax: x.tax || undefined, every: Number(x.every) || 0 } }),
    done: (s) => {
      if (s.kind === "address") fetchIt.mutate(s.id);
      onDone();
    },
  });
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="A list's address" focus {...across}>
      <Text upright name="supplier" label="Supplier" w="170px" faults={["supplier", "name"]} />
      <Text
        upright
        name="address"
        label="Address of the list, or a folder to watch"
        w="300px"
        hint="https://…/prices.csv"
      />
      <Text upright upper name="currency" label="Currency" w="70px" />
      <Text upright name="every" label="Every … minutes" w="104px" />
      <Text upright figures name="charge" label="One order's delivery" w="110px" hint="0 if none" />
      <Text upright name="free_from" label="free from" w="94px" hint="never" />
      <CostsTax upright />
      <Text upright name="username" label="User" w="110px" hint="if asked for" />
      <Text upright secret name="password" label="Password" w="110px" />
      <Button look="main" type="submit" disabled={keep.busy}>
        Add it
      </Button>
    </Form>
  );
}

/** AddPage captures one product from its own page. */
function AddPage() {
  const go = useNavigate();
  const keep = useKeep({
    values: { address: "", supplier: "" },
    keep: (body: { address: string; supplier: string }) => capturePage({ body }),
    done: (f) => go(`/sources/feeds/${f.id}`),
  });
  return (
    <>
      <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="One page" focus {...across}>
        <Text upright name="address" label="Address of the product's page" w="460px" hint="https://…" />
        <Text upright name="supplier" label="Supplier" w="190px" hint="as the address says" />
        <Button look="main" type="submit" disabled={keep.busy}>
          {keep.busy ? "Fetching…" : "Capture it"}
        </Button>
      </Form>
      <Bookmark />
    </>
  );
}

function Paste({ onTake }: { onTake: (text: string) => void }) {
  const form = useForm({ defaultValues: { text: "" } });
  return (
    <Form
      form={form}
      onSubmit={form.handleSubmit(({ text }) => text.trim() && onTake(text))}
      label="Paste"
      focus
      {...across}
    >
      <chakra.textarea
        aria-label="Pasted table or page"
        placeholder="Paste rows from a sheet with their header, or the source of a product's page"
        flex="1"
        h="84px"
        p="2"
        rounded="4px"
        borderWidth="1px"
        borderColor="hair"
        bg="panel"
        fontFamily="mono"
        fontSize="12.5px"
        {...form.register("text")}
      />
      <Button look="main" type="submit" disabled={!form.watch("text").trim()}>
        Look at it
      </Button>
    </Form>
  );
}

const quoted = (s: string) => `"${s.replaceAll('"', '""')}"`;

/** ByHand makes a table of one row out of what is typed, which then goes the way of every file. */
function ByHand({ onTake }: { onTake: (text: string) => void }) {
  const form = useForm({
    defaultValues: { ref: "", title: "", cost: "", currency: "GBP", stock: "", identifier: "", brand: "" },
  });
  const v = form.watch();
  const names = Object.keys(v) as (keyof typeof v)[];
  const send = form.handleSubmit((x) => onTake(`${names.join(",")}\n${names.map((n) => quoted(x[n])).join(",")}\n`));
  return (
    <Form form={form} onSubmit={send} label="Type one in" focus {...across}>
      <Text upright name="ref" label="Their ref" w="110px" />
      <Text upright name="title" label="Title" w="300px" />
      <Text upright name="cost" label="Cost" w="80px" hint="12.40" />
      <Text upright upper name="currency" label="Currency" w="64px" />
      <Text upright name="stock" label="Stock" w="64px" />
      <Text upright name="identifier" label="Product number" w="140px" />
      <Text upright name="brand" label="Brand" w="120px" />
      <Button look="main" type="submit" disabled={!v.ref.trim() || !v.title.trim() || !v.cost.trim()}>
        Look at it
      </Button>
      <Quiet fontSize="12px">Nothing is kept before you have seen how it reads.</Quiet>
    </Form>
  );
}
