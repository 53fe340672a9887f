import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { listen } from "./events";

// What a browser has and jsdom doesn't: locks that one holds at a time, channels
// that tabs hear each other on, and streams.
class Channel {
  static all = new Set<Channel>();
  onmessage: ((m: { data: unknown }) => void) | null = null;
  constructor() {
    Channel.all.add(this);
  }
  postMessage(data: unknown) {
    for (const c of Channel.all) if (c !== this) c.onmessage?.({ data });
  }
  close() {
    Channel.all.delete(this);
  }
}

class Stream {
  static open: Stream[] = [];
  onopen: (() => void) | null = null;
  onmessage: ((m: { data: string }) => void) | null = null;
  constructor() {
    Stream.open.push(this);
  }
  close() {
    Stream.open = Stream.open.filter((s) => s !== this);
  }
}

function locks() {
  let last: Promise<unknown> = Promise.resolve();
  return {
    request: (_: string, { signal }: { signal: AbortSignal }, held: () => Promise<void>) => {
      const mine = last.then(() => (signal.aborted ? Promise.reject(new Error("aborted")) : held()));
      last = mine.catch(() => {});
      return mine;
    },
  };
}

const settled = () => new Promise((done) => setTimeout(done));
let hidden = false;
const see = (now: boolean) => {
  hidden = !now;
  document.dispatchEvent(new Event("visibilitychange"));
};

beforeEach(() => {
  hidden = false;
  Channel.all.clear();
  Stream.open = [];
  vi.stubGlobal("BroadcastChannel", Channel);
  vi.stubGlobal("EventSource", Stream);
  Object.defineProperty(navigator, "locks", { value: locks(), configurable: true });
  Object.defineProperty(document, "hidden", { get: () => hidden, configurable: true });
});
afterEach(() => vi.unstubAllGlobals());

describe("what the server tells", () => {
  it("comes by one stream to all tabs, and by the next tab's once the first is closed", async () => {
    const heard: unknown[][] = [[], [], []];
    const ends = heard.map((h) => listen((news) => h.push(news)));
    await settled();
    expect(Stream.open).toHaveLength(1);
    Stream.open[0].onmessage?.({ data: '{"topics":["rules"]}' });
    for (const h of heard) expect(h.at(-1)).toEqual({ topics: ["rules"] });
    ends[0]();
    await settled();
    expect(Stream.open).toHaveLength(1);
    Stream.open[0].onmessage?.({ data: '{"topics":["plan"]}' });
    expect(heard[0].at(-1)).toEqual({ topics: ["rules"] });
    expect(heard[2].at(-1)).toEqual({ topics: ["plan"] });
    for (const end of ends.slice(1)) end();
    await settled();
    expect(Stream.open).toHaveLength(0);
  });
  it("isn't listened to by a hidden tab, which asks for all once it is seen again", async () => {
    const heard: unknown[] = [];
    const end = listen((news) => heard.push(news));
    await settled();
    see(false);
    await settled();
    expect(Stream.open).toHaveLength(0);
    const before = heard.length;
    see(true);
    await settled();
    expect(Stream.open).toHaveLength(1);
    expect(heard.slice(before)).toContain("missed");
    end();
  });
  it("may have been missed while the stream was broken, and all tabs ask again", async () => {
    const heard: unknown[][] = [[], []];
    const ends = heard.map((h) => listen((news) => h.push(news)));
    await settled();
    Stream.open[0].onopen?.();
    for (const h of heard) expect(h.at(-1)).toBe("missed");
    for (const end of ends) end();
  });
});
