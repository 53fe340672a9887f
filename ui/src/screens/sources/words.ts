// Words for the states of a feed, and other figures that several parts show.
export const words: Record<string, string> = { looked: "waits", same: "nothing new", reading: "reading" };

export const tone = (state: string) => (state === "failed" || state === "held" ? "bad" : undefined);

/** size writes bytes as people do. */
export const size = (bytes: number) =>
  bytes < 1 << 20 ? `${Math.max(1, Math.round(bytes / 1024))} KiB` : `${(bytes / (1 << 20)).toFixed(1)} MiB`;
