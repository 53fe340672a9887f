import type { Query } from "@tanstack/react-query";

/** besides names, by the topic that a query is of, another whose changes it shows too:
 * what is prepared shows its listing's price, stock and state. */
const besides: Record<string, string> = { prepare: "listings" };

/** showsAnyOf tells which queries show something of changed topics. */
export const showsAnyOf =
  (changed: ReadonlySet<string>) =>
  (q: Pick<Query, "queryKey">): boolean => {
    const topic = String(q.queryKey[0]);
    return changed.has(topic) || changed.has(besides[topic]);
  };
