import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useCreateFilter, useDeleteFilter } from "../../api/operations";
import { useSieves } from "../../api/queries";
import { Button, Code, Input, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import type { NamedSieve } from "./queries";
import { type Condition, heads, inWords, readSieve, type Sieve, takes, unit, written } from "./words";

type SieveBarProps = {
  text: string;
  sort: { sort: string; desc: boolean };
  currency: string;
  count: number | undefined;
  wrong: unknown;
  columns: string;
  onChange: (text: string, named?: NamedSieve) => void;
};

/** SieveBar is the conditions that the list goes through, stacked, and the named ones. */
export function SieveBar({ text, sort, currency, count, wrong, columns, onChange }: SieveBarProps) {
  const { data } = useSieves();
  const [adding, setAdding] = useState<number | "new">(); // to which part
  const [naming, setNaming] = useState(false);
  const sieve = readSieve(text);
  const named = data?.sieves.find((s) => s.sieve === text);
  useKeys({ f: () => setAdding("new"), F: () => setAdding("new") }, adding === undefined, [["F", "add a condition"]]);
  // The address takes a moment to change: what is done next stands on what was done, not on what is drawn still.
  const latest = useRef(text);
  useEffect(() => {
    latest.current = text;
  }, [text]);
  const put = (change: (old: Sieve) => Sieve) => {
    latest.current = written(change(readSieve(latest.current)));
    onChange(latest.current);
  };
  const add = (c: Condition) => {
    put((old) => (adding === "new" ? [...old, [c]] : old.map((p, i) => (i === adding ? [...p, c] : p))));
    setAdding(undefined);
  };
  const drop = (part: number, at: number) =>
    put((old) => old.map((p, i) => (i === part ? p.filter((_, k) => k !== at) : p)).filter((p) => p.length > 0));
  return (
    <>
      <chakra.div
        role="group"
        aria-label="Sieve"
        display="flex"
        flexWrap="wrap"
        gap="1.5"
        alignItems="center"
        py="2"
        minH="44px"
      >
        <Select
          aria-label="A named sieve"
          w="172px"
          value={named?.id ?? ""}
          onChange={(e) => {
            const s = data?.sieves.find((x) => String(x.id) === e.target.value);
            if (s) onChange(s.sieve, s);
            else onChange("");
          }}
        >
          <option value="">{text ? "a sieve without a name" : "everything"}</option>
          {data?.sieves.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </Select>
        {sieve.map((part, i) => (
          <chakra.span
            key={written([part])}
            display="inline-flex"
            alignItems="center"
            gap="1"
            bg="band"
            rounded="5px"
            pl="2"
            minH="28px"
          >
            {part.map((c, k) => (
              <chakra.span key={inWords(c)} display="inline-flex" alignItems="center" gap="1">
                {k > 0 && <Quiet>or</Quiet>}
                {inWords(c)}
                <Button look="plain" size="small" aria-label={`Take away: ${inWords(c)}`} onClick={() => drop(i, k)}>
                  ×
                </Button>
              </chakra.span>
            ))}
            <Button
              look="plain"
              size="small"
              aria-label={`Or, beside ${inWords(part[0])}`}
              onClick={() => setAdding(i)}
            >
              or…
            </Button>
          </chakra.span>
        ))}
        {adding === undefined ? (
          <Button size="small" onClick={() => setAdding("new")}>
            {sieve.length ? "And a condition" : "Add a condition"} <Key>F</Key>
          </Button>
        ) : (
          <NewCondition currency={currency} onAdd={add} onClose={() => setAdding(undefined)} />
        )}
        {sieve.length > 0 && !named && !naming && !wrong && (
          <Button look="plain" size="small" onClick={() => setNaming(true)}>
            Keep this sieve
          </Button>
        )}
        {naming && <Naming text={text} sort={sort} columns={columns} onClose={() => setNaming(false)} />}
        {named && <Named sieve={named} onGone={() => onChange(text)} />}
        <chakra.span flex="1" />
        <span role="status">
          {count !== undefined && (
            <>
              <Code color="ink">{count.toLocaleString("en-GB").replace(/,/g, "\u202f")}</Code>{" "}
              <Quiet>{count === 1 ? "goes through" : "go through"}</Quiet>
            </>
          )}
        </span>
      </chakra.div>
      <Trouble error={wrong} />
    </>
  );
}

type NewConditionProps = { currency: string; onAdd: (c: Condition) => void; onClose: () => void };

function NewCondition({ currency, onAdd, onClose }: NewConditionProps) {
  const { data } = useSieves();
  const [column, setColumn] = useState("profit_lowest");
  const [op, setOp] = useState("above");
  const [values, setValues] = useState(["", ""]);
  const box = useRef<HTMLFormElement>(null);
  const of = data?.columns.find((c) => c.name === column);
  const n = takes(op);
  const ready = values.slice(0, n).every((v) => v.trim() !== "") || (of?.kind === "truth" && n === 1);
  return (
    <chakra.form
      ref={box}
      display="inline-flex"
      gap="1.5"
      alignItems="center"
      aria-label="A new condition"
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          onClose();
        }
      }}
      onSubmit={(e) => {
        e.preventDefault();
        if (!ready) return;
        const given = of?.kind === "truth" ? [values[0] || "yes"] : values.slice(0, n).map((v) => v.trim());
        onAdd({ column, op, values: op === "one of" ? given[0].split(/\s*,\s*/).filter(Boolean) : given });
      }}
    >
      <Select
        aria-label="Column"
        w="172px"
        autoFocus
        value={column}
        onChange={(e) => {
          const c = data?.columns.find((x) => x.name === e.target.value);
          setColumn(e.target.value);
          if (c && !c.ops.includes(op)) setOp(c.ops[0]);
          setValues(["", ""]);
        }}
      >
        {data?.columns.map((c) => (
          <option key={c.name} value={c.name}>
            {heads[c.name] ?? c.name}
          </option>
        ))}
      </Select>
      <Select aria-label="Comparison" w="104px" value={op} onChange={(e) => setOp(e.target.value)}>
        {of?.ops.map((o) => (
          <option key={o} value={o}>
            {o === "empty" ? "not known" : o === "filled" ? "known" : o}
          </option>
        ))}
      </Select>
      {of?.kind === "truth" ? (
        <Select
          aria-label="Value"
          w="72px"
          value={values[0] || "yes"}
          onChange={(e) => setValues([e.target.value, ""])}
        >
          <option>yes</option>
          <option>no</option>
        </Select>
      ) : (
        values
          .slice(0, n)
          .map((v, i) => (
            <Input
              key={i === 0 ? "from" : "to"}
              aria-label={i === 0 ? "Value" : "Upper value"}
              figures={of?.kind !== "text" && of?.kind !== "name"}
              w={of?.kind === "text" || of?.kind === "name" ? "160px" : "84px"}
              h="28px"
              value={v}
              placeholder={op === "one of" ? "one, another" : ""}
              onChange={(e) => setValues(i === 0 ? [e.target.value, values[1]] : [values[0], e.target.value])}
            />
          ))
      )}
      <Quiet>{unit(of, currency)}</Quiet>
      <Button size="small" type="submit" disabled={!ready}>
        Add
      </Button>
      <Button look="plain" size="small" onClick={onClose}>
        Leave it
      </Button>
    </chakra.form>
  );
}

type NamingProps = { text: string; sort: { sort: string; desc: boolean }; columns: string; onClose: () => void };

function Naming({ text, sort, columns, onClose }: NamingProps) {
  const [name, setName] = useState("");
  const keep = useCreateFilter(() => ({
    body: {
      id: 0,
      facts: false,
      name,
      sieve: text,
      sort: sort.sort,
      down: sort.desc,
      columns: columns ? columns.split(",") : undefined,
    },
  }));
  return (
    <chakra.form
      display="inline-flex"
      gap="1.5"
      alignItems="center"
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim()) keep.mutate(undefined, { onSuccess: onClose });
      }}
    >
      <Input
        aria-label="Name of the sieve"
        placeholder="its name"
        autoFocus
        w="150px"
        h="28px"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <Button size="small" type="submit" disabled={!name.trim() || keep.isPending}>
        Keep
      </Button>
      <Button look="plain" size="small" onClick={onClose}>
        Leave it
      </Button>
      <Trouble error={keep.error} />
    </chakra.form>
  );
}

function Named({ sieve, onGone }: { sieve: NamedSieve; onGone: () => void }) {
  const forget = useDeleteFilter(() => ({ path: { id: sieve.id } }));
  return (
    <>
      <Button
        look="plain"
        size="small"
        disabled={forget.isPending}
        onClick={() => forget.mutate(undefined, { onSuccess: onGone })}
        aria-label={`Forget the sieve ${sieve.name}`}
      >
        Forget its name
      </Button>
      <Trouble error={forget.error} />
    </>
  );
}
