import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

export const api = createClient<paths>({ baseUrl: "/" });

// Questions are posted because they are long; they change nothing.
const asks = /\/(bench|bench\/sites|preview|what-if)$/;

// Every write carries a key of its own, so that one sent twice is done once.
api.use({
  onRequest({ request }) {
    if (request.method !== "GET" && !asks.test(new URL(request.url).pathname))
      request.headers.set("Idempotency-Key", crypto.randomUUID());
    return request;
  },
});

/** Problem is what the server says of a failure (problem+json), in words for people. */
export class Problem extends Error {
  constructor(
    words: string,
    readonly status: number,
    readonly fields: Record<string, string> = {},
  ) {
    super(words);
  }
}

type ProblemBody = { detail?: string; errors?: { location?: string; message?: string }[] | null };

export function toProblem(body: unknown, status: number): Problem {
  const b = (body ?? {}) as ProblemBody;
  const fields: Record<string, string> = {};
  for (const e of b.errors ?? []) {
    if (e.location) fields[e.location.replace(/^body\./, "")] = e.message ?? "";
  }
  const first = b.errors?.[0]?.message;
  const words = status === 422 && first ? first : b.detail;
  return new Problem(words ?? "The server did not answer as expected. Nothing was changed; try again.", status, fields);
}

/** read unwraps an answer, or throws what the server said. */
export async function read<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: Awaited<typeof call>;
  try {
    answer = await call;
  } catch {
    throw new Problem("Easy Margin can't be reached. Is it still running? Nothing was changed.", 0);
  }
  if (!answer.response.ok || answer.data === undefined) throw toProblem(answer.error, answer.response.status);
  return answer.data;
}

/** bringIn uploads a file as it is; nothing of it is taken yet. */
export async function bringIn(
  file: File | Blob,
  name: string,
  whose: { source_id?: number; part_of?: number } = {},
): Promise<Schemas["FeedView"]> {
  const q = new URLSearchParams({ name });
  for (const [k, v] of Object.entries(whose)) if (v) q.set(k, String(v));
  return read(
    fetch(`/api/feeds?${q}`, { method: "POST", body: file }).then(async (response) => {
      const body = await response.json().catch(() => null);
      return response.ok ? { data: body as Schemas["FeedView"], response } : { error: body, response };
    }),
  );
}
