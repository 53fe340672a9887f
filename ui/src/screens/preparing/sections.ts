import type { Field } from "./queries";

/** Section is a part of what is said of a listing, and how complete it is. */
export type Section = { name: string; fields: Field[]; done: number; needed: number };

const sectionOf = (field: string) =>
  field.startsWith("attributes.")
    ? "Facts"
    : field.startsWith("package.")
      ? "Parcel"
      : field === "description" || field === "words"
        ? "In words"
        : field === "list_price"
          ? "Price"
          : "What it is";

/** sections are the fields by what they are about, in their order; needed ones
 * are counted, and those of them that nothing stops. */
export function sections(fields: Field[]): Section[] {
  const out: Section[] = [];
  for (const f of fields) {
    const name = sectionOf(f.field);
    let s = out.find((x) => x.name === name);
    if (!s) {
      s = { name, fields: [], done: 0, needed: 0 };
      out.push(s);
    }
    s.fields.push(f);
    const stops = f.level === "stops";
    if (f.need === "needed" || stops) s.needed++;
    if (f.need === "needed" && !stops) s.done++;
  }
  return out;
}
