/** toggled is a set with one more in it, or one less where it was in it. */
export function toggled<T>(set: Set<T>, one: T): Set<T> {
  const next = new Set(set);
  if (!next.delete(one)) next.add(one);
  return next;
}
