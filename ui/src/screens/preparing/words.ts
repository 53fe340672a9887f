import type { Field } from "./queries";

const names: Record<string, string> = {
  sku: "SKU",
  number: "Number (barcode)",
  brand: "Brand",
  title: "Title",
  "title.parts": "Title is made of",
  series: "Series",
  model: "Model",
  key_feature: "Key feature",
  kind: "What it is",
  pack: "Pack",
  description: "Description",
  words: "Search words",
  list_price: "List price",
  "package.weight": "Packed weight, g",
  "package.length": "Packed length, mm",
  "package.width": "Packed width, mm",
  "package.height": "Packed height, mm",
};

/** nameOf is what a field is called. */
export function nameOf(field: string): string {
  const plain = field.replace(/^attributes\./, "").replaceAll("_", " ");
  return names[field] ?? plain.charAt(0).toUpperCase() + plain.slice(1);
}

/** askedWords say what a place wants of an attribute, in a few words. */
export function askedWords(f: Field): string {
  const a = f.asked;
  if (!a) return "";
  const parts: string[] = [];
  if (a.kind === "number") parts.push(a.unit ? `a number in ${a.unit}` : "a number");
  if (a.kind === "number" && (a.least || a.most)) parts.push(`${a.least ?? "…"} to ${a.most ?? "…"}`);
  if (a.kind === "choice" || a.kind === "choices")
    parts.push(!a.values ? "a word" : a.values.length > 4 ? `one of ${a.values.length}` : a.values.join(" / "));
  if (a.kind === "choices") parts.push(a.at_most ? `at most ${a.at_most}` : "or several");
  if (a.kind === "yesno") parts.push("yes or no");
  if (a.kind === "date") parts.push("a day, YYYY-MM-DD");
  if (a.kind === "link") parts.push("an address");
  if (a.limit) parts.push(`at most ${a.limit}`);
  return parts.join(", ");
}

/** fromWords say where a value comes from. */
export function fromWords(f: Field): string {
  switch (f.from) {
    case "person":
      return f.name === "" || f.name === "you" ? "you" : f.name;
    case "supplier":
      return f.name;
    case "our word":
      return `your word for ${f.name}`;
    case "product":
      return "the product";
    case "terms":
      return `the terms ${f.name}`;
    case "category":
      return "what holds in its category";
    case "template":
      return "the template";
    default:
      return "";
  }
}

/** mark is the sign of a field's need, beside its word. */
export const mark = (f: Field) =>
  f.level === "stops"
    ? "!"
    : f.need === "needed"
      ? "✓"
      : f.level === "helps"
        ? "+"
        : f.need === "does not apply"
          ? "–"
          : "";

/** sayable tells whether the same can be said of many in a field. */
export const sayable = (field: string) =>
  field in names ? field !== "sku" && field !== "title" : field.startsWith("attributes.");
