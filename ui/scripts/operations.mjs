// Writes src/api/operations.ts: a function and a hook for each operation that the API's
// description has, with what is read again after it.
import { readFileSync, writeFileSync } from "node:fs";

const description = JSON.parse(readFileSync("../docs/openapi.json", "utf8"));
const camel = (id) => id.replace(/-(\w)/g, (_, c) => c.toUpperCase());
const lines = [
  "// Made from docs/openapi.json by scripts/operations.mjs: make types makes it anew.",
  'import { operation, reading, writing } from "./operation";',
  "",
];
const all = Object.entries(description.paths).flatMap(([path, item]) =>
  Object.entries(item).map(([method, op]) => ({ path, method, op })),
);
for (const { path, method, op } of all.sort((a, b) => (a.op.operationId < b.op.operationId ? -1 : 1))) {
  const id = op.operationId;
  if (id === "stream-events") continue; // events.ts listens to it
  const name = camel(id);
  const effect = op["x-effect"];
  const answer = Object.entries(op.responses).find(([status]) => status.startsWith("2"))?.[1];
  const media = Object.entries(op.requestBody?.content ?? {}).find(
    ([, m]) => m.schema?.format === "binary" || Object.keys(m.schema ?? {}).length === 0,
  )?.[0];
  const summary = op.summary.replaceAll("*/", "");
  lines.push(`/** ${summary}. */`);
  lines.push(
    `export const ${name} = operation(${JSON.stringify(id)}, ${JSON.stringify(method)}, ${JSON.stringify(path)}, ${JSON.stringify(effect)}, ${JSON.stringify(op["x-topics"])}${media ? `, ${JSON.stringify(media)}` : ""});`,
  );
  if (answer && !answer.content?.["application/json"]) continue; // a file is linked to
  const hook = `use${name[0].toUpperCase()}${name.slice(1)}`;
  lines.push(`export const ${hook} = ${effect === "writes" ? "writing" : "reading"}(${name});`);
}
const file = "src/api/operations.ts";
const text = `${lines.join("\n")}\n`;
if (process.argv.includes("--check")) {
  if (readFileSync(file, "utf8") !== text) {
    console.error(`${file} is stale: run make types`);
    process.exit(1);
  }
} else writeFileSync(file, text);
