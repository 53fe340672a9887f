import { afterEach, expect, it, vi } from "vitest";
import { operation } from "./operation";

afterEach(() => vi.unstubAllGlobals());

/** sent is the request that an operation makes. */
async function sent(call: () => Promise<unknown>): Promise<Request> {
  const asked: Request[] = [];
  vi.stubGlobal("fetch", async (r: Request) => {
    asked.push(r);
    return new Response("{}", { headers: { "Content-Type": "application/json" } });
  });
  await call();
  return asked[0];
}

it("sends a text as it is, and anything else as JSON, whatever the body's kind", async () => {
  const fees = operation("update-fees", "put", "/sites/{id}/fees", "writes", [], "application/json");
  const written = await sent(() =>
    fees({ path: { id: 7 }, body: { category: "c", starts_on: "2026-01-01", fees: [] } }),
  );
  expect(new URL(written.url).pathname).toBe("/api/v1/sites/7/fees");
  expect(await written.json()).toEqual({ category: "c", starts_on: "2026-01-01", fees: [] });
  const upload = operation("upload-fees", "post", "/sites/{id}/fees/upload", "writes", [], "application/json");
  const text = await sent(() => upload({ path: { id: 7 }, body: '{ "schedules": [] }' }));
  expect(await text.text()).toBe('{ "schedules": [] }');
  expect(text.headers.get("Content-Type")).toBe("application/json");
  expect(text.headers.get("Idempotency-Key")).toMatch(/^[0-9a-f]{32}$/);
});
