import { screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { server, show } from "../../parts/testing";
import { Bookmark, bookmarkOf, HandIn } from "./bookmark";

afterEach(() => {
  Object.defineProperty(window, "opener", { configurable: true, value: null });
});

describe("a page from where a person is", () => {
  it("is asked of the window that opened ours, and handed in as it is there", async () => {
    const said = vi.fn();
    const opener = { postMessage: said } as unknown as Window;
    Object.defineProperty(window, "opener", { configurable: true, value: opener });
    const api = server({ "POST /api/v1/pages/upload": { id: 12 } });
    show(<HandIn />, "/hand-in", "/hand-in");
    await waitFor(() => expect(said).toHaveBeenCalledWith("easymargin asks for the page", "*"));
    const page = { token: "T1", address: "https://supplier.example/lantern", html: "<h1>Lantern</h1>" };
    window.dispatchEvent(new MessageEvent("message", { source: null, data: page })); // somebody else's
    window.dispatchEvent(new MessageEvent("message", { source: opener, data: { ...page, html: 7 } })); // no page
    expect(api.writes()).toEqual([]);
    window.dispatchEvent(new MessageEvent("message", { source: opener, data: page }));
    expect(await screen.findByText("another screen")).toBeTruthy();
    expect(api.writes()).toHaveLength(1);
    expect(api.asked.at(-1)?.what).toBe("POST /api/v1/pages/upload");
  });

  it("waits where nothing opened it", async () => {
    server({});
    show(<HandIn />);
    expect(await screen.findByText(/Press the bookmark/)).toBeTruthy();
  });
});

describe("the bookmark", () => {
  it("tells its token to our origin alone", () => {
    const code = decodeURIComponent(bookmarkOf("http://127.0.0.1:8640", "T1").replace("javascript:", ""));
    expect(code).toContain("e.origin!==o");
    expect(code).toContain("},o)");
    expect(code).not.toContain('"*"');
    expect(() => new Function(code)).not.toThrow();
  });

  it("is made by a press, not by looking", async () => {
    const api = server({ "GET /api/v1/bookmarklet": { token: "" }, "POST /api/v1/bookmarklet/renew": { token: "T1" } });
    show(<Bookmark />);
    (await screen.findByRole("button", { name: "Make the bookmark" })).click();
    await waitFor(() => expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/bookmarklet/renew"]));
    expect(screen.queryByText("Copy its address")).toBeNull();
  });

  it("is the one that is there, until another is made", async () => {
    const api = server({
      "GET /api/v1/bookmarklet": { token: "T1" },
      "POST /api/v1/bookmarklet/renew": { token: "T2" },
    });
    show(<Bookmark />);
    await waitFor(() => expect(screen.getByText("To Easy Margin").getAttribute("href")).toContain("javascript:"));
    screen.getByText("Make another, end the old").click();
    await waitFor(() => expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/bookmarklet/renew"]));
  });
});
