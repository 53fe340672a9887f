import { chakra } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, bringIn, Problem, read } from "../../api/client";
import { useDo } from "../../api/queries";
import { Button, Input, Key, Quiet, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";

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
  const bring = useDo((x: { file: Blob; name: string }) => bringIn(x.file, x.name), "feeds", "sources");
  const take = (x: Blob | undefined, name: string) =>
    x && bring.mutate({ file: x, name }, { onSuccess: (feed) => go(`/sources/feeds/${feed.id}`) });
  useKeys({ ".": () => file.current?.click() }, next);
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

type FieldProps<T> = {
  v: T;
  set: (v: T) => void;
  name: keyof T & string;
  label: string;
  w: string;
  hint?: string;
  wrong?: string;
  type?: string;
  focus?: boolean;
};

function Field<T extends Record<string, string>>(p: FieldProps<T>) {
  return (
    <chakra.label display="block" w={p.w}>
      <chakra.span display="block" fontSize="12px" color="quiet">
        {p.label}
      </chakra.span>
      <Input
        value={p.v[p.name]}
        placeholder={p.hint}
        type={p.type}
        autoFocus={p.focus}
        autoComplete="off"
        aria-invalid={!!p.wrong}
        w="100%"
        onChange={(e) => p.set({ ...p.v, [p.name]: e.target.value })}
      />
      {p.wrong && (
        <chakra.span color="loss" fontSize="12px">
          {p.wrong}
        </chakra.span>
      )}
    </chakra.label>
  );
}

const Form = chakra("form", { base: { display: "flex", gap: "3", alignItems: "flex-end", flexWrap: "wrap", pt: "2" } });

function AddAddress({ onDone }: { onDone: () => void }) {
  const [v, setV] = useState({
    supplier: "",
    address: "",
    currency: "GBP",
    charge: "",
    free_from: "",
    every: "15",
    username: "",
    password: "",
  });
  const make = useDo(
    (x: typeof v) => read(api.POST("/api/sources", { body: { ...x, every: Number(x.every) || 0 } })),
    "sources",
  );
  const fetchIt = useDo(
    (id: number) => read(api.POST("/api/sources/{id}/fetch", { params: { path: { id } } })),
    "runs",
  );
  const wrong = make.error instanceof Problem ? make.error.fields : {};
  const field = (name: keyof typeof v, label: string, w: string, hint = "", type?: string) => (
    <Field
      v={v}
      set={setV}
      name={name}
      label={label}
      w={w}
      hint={hint}
      type={type}
      wrong={wrong[name]}
      focus={name === "supplier"}
    />
  );
  return (
    <Form
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(v, {
          onSuccess: (s) => {
            if (s.kind === "address") fetchIt.mutate(s.id);
            onDone();
          },
        });
      }}
    >
      {field("supplier", "Supplier", "170px")}
      {field("address", "Address of the list, or a folder to watch", "300px", "https://…/prices.csv")}
      {field("currency", "Currency", "70px")}
      {field("every", "Every … minutes", "104px")}
      {field("charge", "Their delivery", "94px", "none")}
      {field("free_from", "free from", "94px", "never")}
      {field("username", "User", "110px", "if asked for")}
      {field("password", "Password", "110px", "", "password")}
      <Button look="main" type="submit" disabled={make.isPending}>
        Add it
      </Button>
      {make.error && Object.keys(wrong).length === 0 && <Trouble error={make.error} />}
    </Form>
  );
}

/** AddPage captures one product from its own page. */
function AddPage() {
  const go = useNavigate();
  const [v, setV] = useState({ address: "", supplier: "" });
  const get = useDo((body: typeof v) => read(api.POST("/api/pages", { body })), "feeds", "sources");
  return (
    <Form
      onSubmit={(e) => {
        e.preventDefault();
        get.mutate(v, { onSuccess: (f) => go(`/sources/feeds/${f.id}`) });
      }}
    >
      <Field v={v} set={setV} name="address" label="Address of the product's page" w="460px" hint="https://…" focus />
      <Field v={v} set={setV} name="supplier" label="Supplier" w="190px" hint="as the address says" />
      <Button look="main" type="submit" disabled={get.isPending}>
        {get.isPending ? "Fetching…" : "Capture it"}
      </Button>
      <Trouble error={get.error} />
    </Form>
  );
}

function Paste({ onTake }: { onTake: (text: string) => void }) {
  const [text, setText] = useState("");
  return (
    <Form
      onSubmit={(e) => {
        e.preventDefault();
        if (text.trim()) onTake(text);
      }}
    >
      <chakra.textarea
        autoFocus
        aria-label="Pasted table or page"
        placeholder="Paste rows from a sheet with their header, or the source of a product's page"
        value={text}
        onChange={(e) => setText(e.target.value)}
        flex="1"
        h="84px"
        p="2"
        rounded="4px"
        borderWidth="1px"
        borderColor="hair"
        bg="panel"
        fontFamily="mono"
        fontSize="12.5px"
      />
      <Button look="main" type="submit" disabled={!text.trim()}>
        Look at it
      </Button>
    </Form>
  );
}

const quoted = (s: string) => `"${s.replaceAll('"', '""')}"`;

/** ByHand makes a table of one row out of what is typed, which then goes the way of every file. */
function ByHand({ onTake }: { onTake: (text: string) => void }) {
  const [v, setV] = useState({ ref: "", title: "", cost: "", currency: "GBP", stock: "", identifier: "", brand: "" });
  const names = Object.keys(v) as (keyof typeof v)[];
  return (
    <Form
      onSubmit={(e) => {
        e.preventDefault();
        onTake(`${names.join(",")}\n${names.map((n) => quoted(v[n])).join(",")}\n`);
      }}
    >
      <Field v={v} set={setV} name="ref" label="Their ref" w="110px" focus />
      <Field v={v} set={setV} name="title" label="Title" w="300px" />
      <Field v={v} set={setV} name="cost" label="Cost" w="80px" hint="12.40" />
      <Field v={v} set={setV} name="currency" label="Currency" w="64px" />
      <Field v={v} set={setV} name="stock" label="Stock" w="64px" />
      <Field v={v} set={setV} name="identifier" label="Product number" w="140px" />
      <Field v={v} set={setV} name="brand" label="Brand" w="120px" />
      <Button look="main" type="submit" disabled={!v.ref.trim() || !v.title.trim() || !v.cost.trim()}>
        Look at it
      </Button>
      <Quiet fontSize="12px">Nothing is kept before you have seen how it reads.</Quiet>
    </Form>
  );
}
