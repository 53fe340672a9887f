import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** base is what the paths of operations are below. */
export const base = `${location.origin}/api/v1`;

export const api = createClient<paths>({ baseUrl: base, fetch: (request) => fetch(request) });

/** newKey is a key for a write: there is no randomUUID where a page came over plain HTTP from another machine. */
export const newKey = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("");

/** ifMatch says which version of a thing was edited: a newer one is not written over. */
export const ifMatch = (version: number | undefined) => ({ "If-Match": version ? `"${version}"` : undefined });

/** Problem is what the server says of a failure (problem+json), in words for people. */
export class Problem extends Error {
  constructor(
    words: string,
    readonly status: number,
    readonly fields: Record<string, string> = {},
    /** The thing as it is now, where somebody else has changed it. */
    readonly current?: unknown,
  ) {
    super(words);
  }
}

type Detail = { location?: string; message?: string; value?: unknown };
type ProblemBody = { detail?: string; errors?: Detail[] | null };

export function toProblem(body: unknown, status: number): Problem {
  const b = (body ?? {}) as ProblemBody;
  const fields: Record<string, string> = {};
  let current: unknown;
  for (const e of b.errors ?? []) {
    if (e.location === "current") current = e.value;
    else if (e.location) fields[e.location.replace(/^body\./, "")] = e.message ?? "";
  }
  const first = b.errors?.[0]?.message;
  const words = status === 422 && first ? first : b.detail;
  return new Problem(
    words ?? "The server did not answer as expected. Nothing was changed; try again.",
    status,
    fields,
    current,
  );
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** read unwraps an answer, or throws what the server said. Whom it doesn't know is sent to log in. */
export async function read<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new Problem("Easy Margin can't be reached. Is it still running? Nothing was changed.", 0);
  }
  if (answer.response.status === 401)
    location.assign(`/log-in?to=${encodeURIComponent(location.pathname + location.search)}`);
  if (!answer.response.ok || answer.data === undefined) throw toProblem(answer.error, answer.response.status);
  return answer.data;
}

/** download saves a file that the server makes, or throws what it says instead. */
export async function download(address: string, name: string) {
  const response = await fetch(address);
  if (!response.ok) throw toProblem(await response.json().catch(() => null), response.status);
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
