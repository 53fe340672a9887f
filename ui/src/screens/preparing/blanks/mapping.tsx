import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useCreateTemplate } from "../../../api/operations";
import { useCategories } from "../../../api/queries";
import { Button, Code, Input, Key, Quiet, Select, Trouble } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { nameOf } from "../words";

type Look = Schemas["BlankLook"];
type Filling = Schemas["Filling"];
type Props = { site: number; look: Look; onDone: (kept: Schemas["BlankKept"]) => void; onLeave: () => void };

/** Mapping says what each column of a dropped blank is filled with, before it is kept. */
export function Mapping({ site, look, onDone, onLeave }: Props) {
  const [at, setAt] = useState(0);
  const sheet = look.sheets[at];
  const whole = sheet.columns.some((c) => c.fill.from === "title"); // else it is one of changes alone
  const [category, setCategory] = useState(look.category || (whole ? "" : "-"));
  const [also, setAlso] = useState<string[]>([]);
  const [fills, setFills] = useState<Filling[][]>(() => look.sheets.map((s) => s.columns.map((c) => c.fill)));
  const { data: categories } = useCategories(site);
  const mine = fills[at];
  const put = (i: number, by: Partial<Filling>) =>
    setFills((all) => all.map((list, n) => (n === at ? list.map((f, k) => (k === i ? { ...f, ...by } : f)) : list)));
  const keep = useCreateTemplate(() => ({
    path: { id: site },
    body: {
      token: look.token,
      name: look.name,
      category: category === "-" ? "" : category,
      also: category === "-" ? [] : also,
      sheet: sheet.name,
      header_row: sheet.header_row,
      first_row: sheet.first_row,
      columns: sheet.columns.map((c, i) => ({ header: c.header, fill: mine[i] })),
      output: {},
    },
  }));
  const empty = sheet.columns.filter((c, i) => c.needed && !mine[i].from && !mine[i].value).length;
  const may = category !== "" && !keep.isPending;
  const send = () => may && keep.mutate(undefined, { onSuccess: onDone });
  useKeys({ ".": send, Escape: onLeave }, true, [
    [".", "keep the blank"],
    ["Esc", "leave it"],
  ]);
  return (
    <chakra.section aria-label={`How ${look.name} is filled`} borderTopWidth="1px" borderColor="hair" pt="2">
      <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap" pb="2">
        <chakra.strong>{look.name}</chakra.strong>
        {look.sheets.length > 1 && (
          <Select w="160px" h="30px" aria-label="Sheet" value={at} onChange={(e) => setAt(Number(e.target.value))}>
            {look.sheets.map((s, i) => (
              <option key={s.name} value={i}>
                {s.name}
              </option>
            ))}
          </Select>
        )}
        <Quiet>
          its header is row {sheet.header_row}, lines begin at row {sheet.first_row}
        </Quiet>
        <chakra.label display="flex" gap="2" alignItems="center">
          It is for
          <Select w="250px" h="30px" value={category} onChange={(e) => setCategory(e.target.value)}>
            <option value="">choose its category</option>
            <option value="-">changes of price and stock</option>
            {categories?.map((c) => (
              <option key={c.ref} value={c.ref}>
                {c.name}
              </option>
            ))}
          </Select>
        </chakra.label>
        {category !== "" && category !== "-" && (
          <chakra.label display="flex" gap="2" alignItems="center">
            and for
            <Select w="180px" h="30px" value="" onChange={(e) => e.target.value && setAlso([...also, e.target.value])}>
              <option value="">{also.length ? "one more" : "no other"}</option>
              {categories
                ?.filter((c) => c.ref !== category && !also.includes(c.ref))
                .map((c) => (
                  <option key={c.ref} value={c.ref}>
                    {c.name}
                  </option>
                ))}
            </Select>
          </chakra.label>
        )}
        {category !== "-" &&
          also.map((ref) => (
            <Button
              key={ref}
              size="small"
              title="Not for this one"
              onClick={() => setAlso(also.filter((x) => x !== ref))}
            >
              {categories?.find((c) => c.ref === ref)?.name ?? ref} ×
            </Button>
          ))}
        <chakra.span flex="1" />
        {empty > 0 && <chakra.span color="loss">{empty} needed and filled with nothing</chakra.span>}
        <Button onClick={onLeave}>Leave it</Button>
        <Button look="main" disabled={!may} onClick={send}>
          Keep it <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={keep.error} />
      <datalist id="fill-paths">
        {look.paths.map((p) => (
          <option key={p} value={p}>
            {nameOf(p)}
          </option>
        ))}
      </datalist>
      <chakra.table
        w="100%"
        css={{ "& th": { textAlign: "left", fontWeight: 600 }, "& td, & th": { padding: "3px 8px 3px 0" } }}
      >
        <thead>
          <tr>
            <th>Its column</th>
            <th>Needed</th>
            <th>Takes</th>
            <th>Filled from</th>
            <th>or with these words</th>
            <th>as</th>
          </tr>
        </thead>
        <tbody>
          {sheet.columns.map((c, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two columns may have one name
            <tr key={i}>
              <chakra.td fontWeight="600" maxW="220px" truncate title={c.header}>
                {c.header}
              </chakra.td>
              <td>{c.needed == null ? <Quiet>not said</Quiet> : c.needed ? <b>needed</b> : <Quiet>no</Quiet>}</td>
              <chakra.td maxW="190px" truncate title={c.values.join(", ")}>
                {c.values.length > 0 ? (
                  <>
                    one of <Code color="ink">{c.values.length}</Code>: {c.values.slice(0, 3).join(", ")}
                  </>
                ) : (
                  <Quiet>{c.example && `such as ${c.example}`}</Quiet>
                )}
              </chakra.td>
              <td>
                <Input
                  h="28px"
                  w="190px"
                  list="fill-paths"
                  aria-label={`${c.header} is filled from`}
                  value={mine[i].from ?? ""}
                  disabled={!!mine[i].value}
                  onChange={(e) => put(i, { from: e.target.value })}
                />
              </td>
              <td>
                <Input
                  h="28px"
                  w="150px"
                  aria-label={`${c.header} is always`}
                  value={mine[i].value ?? ""}
                  onChange={(e) => put(i, { value: e.target.value })}
                />
              </td>
              <td>
                <Select
                  h="28px"
                  w="96px"
                  aria-label={`${c.header} as`}
                  value={mine[i].as ?? ""}
                  onChange={(e) => put(i, { as: e.target.value as Filling["as"] })}
                >
                  <option value="">text</option>
                  <option value="number">number</option>
                  <option value="date">day</option>
                </Select>
              </td>
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </chakra.section>
  );
}
