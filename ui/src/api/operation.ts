import {
  keepPreviousData,
  type UseMutationResult,
  type UseQueryResult,
  useInfiniteQuery,
  useMutation,
  useQuery,
} from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { api, newKey, read } from "./client";
import type { operations } from "./schema";

type Id = keyof operations;
type Effect = "reads" | "asks" | "writes";
type Parameters<I extends Id> = {
  [K in keyof operations[I]["parameters"] as [Exclude<operations[I]["parameters"][K], undefined>] extends [never]
    ? never
    : K]: operations[I]["parameters"][K];
};
type Content<I extends Id> = operations[I] extends { requestBody: { content: infer C } } ? C : never;
type Body<I extends Id> = [Content<I>] extends [never]
  ? unknown
  : Content<I> extends { "application/json": infer J }
    ? { body: J }
    : { body: Blob | string };
/** Input is what an operation takes: path, query, header and body. */
export type Input<I extends Id> = Parameters<I> & Body<I>;
type Answered<I extends Id> = operations[I]["responses"];
type Good<R> = R extends { 200: infer G } ? G : R extends { 201: infer G } ? G : never;
/** Output is what it answers. */
export type Output<I extends Id> = Good<Answered<I>> extends { content: { "application/json": infer J } } ? J : never;
type Args<I extends Id> = Record<never, never> extends Input<I> ? [input?: Input<I>] : [input: Input<I>];

/** Operation is one operation of the API as a function. */
export type Operation<I extends Id> = {
  (...args: [...Args<I>, signal?: AbortSignal]): Promise<Output<I>>;
  id: I;
  topics: readonly string[];
};

type Ask<T> = (input: unknown, signal: AbortSignal) => Promise<T>;
type Loose = { path?: object; query?: object; header?: object; body?: unknown };

const listeners = new Set<(topics: readonly string[]) => Promise<unknown>>();

/** onWritten has something done after each write, with the topics it touched. */
export function onWritten(listener: (topics: readonly string[]) => Promise<unknown>): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** operation makes an operation callable; media is what its body is where that isn't JSON. A write carries a key, so that one sent twice
 * is done once, and afterwards what it touched is read again. */
export function operation<I extends Id>(
  id: I,
  method: "get" | "post" | "put" | "delete",
  path: string,
  effect: Effect,
  topics: readonly string[],
  media?: string,
): Operation<I> {
  const call = async (input: Loose = {}, signal?: AbortSignal) => {
    const { path: at, query, header, body } = input;
    const headers: Record<string, string> = effect === "writes" ? { "Idempotency-Key": newKey() } : {};
    if (media) headers["Content-Type"] = media;
    try {
      return await read<unknown>(
        api.request(
          method,
          path as never,
          {
            params: { path: at, query, header },
            body,
            headers,
            signal,
            ...(media && {
              bodySerializer: (b: unknown) => (typeof b === "string" || b instanceof Blob ? b : JSON.stringify(b)),
            }),
          } as never,
        ),
      );
    } finally {
      if (effect === "writes") await Promise.all([...listeners].map((tell) => tell(topics)));
    }
  };
  return Object.assign(call, { id, topics }) as unknown as Operation<I>;
}

type More = { enabled?: boolean; keep?: boolean; every?: number; retry?: boolean };
type Reading<I extends Id> = (...args: [...Args<I>, more?: More]) => UseQueryResult<Output<I>, Error>;

/** reading is the hook of an operation that reads: its answer is read again when its
 * topic changes. keep shows the last answer while the next is on its way. */
export const reading = <I extends Id>(op: Operation<I>): Reading<I> =>
  ((input?: Input<I>, { enabled = true, keep, every, retry }: More = {}) =>
    useQuery<Output<I>, Error>({
      queryKey: [op.topics[0], op.id, input ?? {}],
      queryFn: ({ signal }) => (op as unknown as Ask<Output<I>>)(input, signal),
      enabled,
      ...(every !== undefined && { refetchInterval: every }),
      ...(retry !== undefined && { retry }),
      ...((keep && { placeholderData: keepPreviousData }) as object),
    })) as unknown as Reading<I>;

type Write<In, I extends Id> = UseMutationResult<Output<I>, Error, In>;

/** Writing is the hook of an operation that writes. of says what the operation takes of
 * what the hook is called with; it is left out where that is the same. */
type Writing<I extends Id> = {
  (): Write<Input<I>, I>;
  <In = void>(of: (x: In) => Input<I>): Write<In, I>;
};

export const writing = <I extends Id>(op: Operation<I>): Writing<I> =>
  ((of = (x: Input<I>) => x) =>
    useMutation({
      mutationFn: (x: Input<I>) => (op as unknown as (i: Input<I>) => Promise<Output<I>>)(of(x)),
    })) as Writing<I>;

type Rows<T> = T extends { rows: (infer R)[] } ? R : never;

/** useParts reads a list part by part, as it is scrolled through. */
export function useParts<I extends Id>(
  op: Operation<I>,
  input: Omit<Input<I>, "query"> & { query?: object },
  on = true,
) {
  type Part = { rows: Rows<Output<I>>[]; total: number; more?: boolean; next: string };
  const q = useInfiniteQuery({
    queryKey: [op.topics[0], op.id, input],
    enabled: on,
    initialPageParam: "",
    queryFn: ({ pageParam, signal }) =>
      (op as unknown as Ask<Part>)(
        { ...input, query: { ...input.query, cursor: pageParam || undefined, limit: 200 } },
        signal,
      ),
    getNextPageParam: (last: Part) => last.next || undefined,
  });
  const rows = useMemo(() => q.data?.pages.flatMap((p) => p.rows) ?? [], [q.data]);
  const { fetchNextPage, isFetchingNextPage, hasNextPage } = q;
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) fetchNextPage();
  }, [fetchNextPage, hasNextPage, isFetchingNextPage]);
  return {
    rows,
    total: q.data?.pages[0]?.total ?? 0,
    uncounted: q.data?.pages[0]?.more ?? false, // there are more than total
    more,
    loading: q.isLoading,
    error: q.error,
    retry: () => q.refetch(),
  };
}
