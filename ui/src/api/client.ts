import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

export const api = createClient<paths>({ baseUrl: location.origin, fetch: (request) => fetch(request) });

// Questions are posted because they are long; they change nothing.
const asks = /\/(bench|bench\/sites|preview|what-if|check|replay|try|split)$/;

/** newKey is a key for a write: there is no randomUUID where a page came over plain HTTP from another machine. */
const newKey = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("");

// Every write carries a key of its own, so that one sent twice is done once.
api.use({
  onRequest({ request }) {
    if (request.method !== "GET" && !asks.test(new URL(request.url).pathname))
      request.headers.set("Idempotency-Key", newKey());
    return request;
  },
});

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

/** post sends a body that is no JSON. */
async function post<T>(address: string, body: BodyInit, type?: string): Promise<Answer<T>> {
  const headers = { "Idempotency-Key": newKey(), ...(type && { "Content-Type": type }) };
  const response = await fetch(address, { method: "POST", body, headers });
  const said = await response.json().catch(() => null);
  return response.ok ? { data: said as T, response } : { error: said, response };
}

/** bringIn uploads a file as it is; nothing of it is taken yet. */
export function bringIn(
  file: File | Blob,
  name: string,
  whose: { source_id?: number; part_of?: number } = {},
): Promise<Schemas["FeedView"]> {
  const q = new URLSearchParams({ name });
  for (const [k, v] of Object.entries(whose)) if (v) q.set(k, String(v));
  return read(post<Schemas["FeedView"]>(`/api/feeds?${q}`, file));
}

/** bringPlaceFile uploads a file that a place lets sellers download. */
export function bringPlaceFile(
  file: File | Blob,
  name: string,
  site: number,
  kind: string,
): Promise<Schemas["FileView"]> {
  return read(post<Schemas["FileView"]>(`/api/sites/${site}/files?${new URLSearchParams({ name, kind })}`, file));
}

/** dropBlank uploads a place's own sheet; nothing of it is kept yet. */
export const dropBlank = (file: File | Blob, name: string, site: number) =>
  read(
    post<Schemas["BlankLook"]>(
      `/api/sites/${site}/blanks?${new URLSearchParams({ name })}`,
      file,
      "application/octet-stream",
    ),
  );

/** dropReport uploads a place's report of filled sheets; nothing of it is read in yet. */
export const dropReport = (file: File | Blob, name: string, site: number) =>
  read(
    post<Schemas["Report"]>(
      `/api/sites/${site}/reports?${new URLSearchParams({ name })}`,
      file,
      "application/octet-stream",
    ),
  );

/** handIn uploads a page as a person's browser has it. */
export const handIn = (html: string, address: string, token: string) =>
  read(
    post<Schemas["FeedView"]>(
      `/api/pages/handed-in?${new URLSearchParams({ token, address })}`,
      new Blob([html]),
      "application/octet-stream",
    ),
  );

/** dropFile uploads a place's file about orders; nothing of it is taken yet. */
export const dropFile = (address: string, file: File) =>
  read(
    post<Schemas["OrderReport"]>(
      `${address}?${new URLSearchParams({ name: file.name })}`,
      file,
      "application/octet-stream",
    ),
  );

/** dropMends uploads a file of mended values; nothing of it is kept yet. */
export const dropMends = (file: File | Blob, name: string, site: number) =>
  read(
    post<Schemas["Mends"]>(
      `/api/sites/${site}/mends?${new URLSearchParams({ name })}`,
      file,
      "application/octet-stream",
    ),
  );

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

/** addPicture uploads a picture as it is. */
export const addPicture = (file: Blob) =>
  read(post<Schemas["OriginalPicture"]>("/api/pictures", file, "application/octet-stream"));

/** postText sends the text of a file. */
export const postText = (address: string, text: string, type: string) =>
  read(post<{ count: number }>(address, text, type));
