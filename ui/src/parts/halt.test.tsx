import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Halted, PullStop } from "./halt";
import { server, show } from "./testing";

describe("the stop", () => {
  it("is said in words and in the title, and is lifted by hand", async () => {
    document.title = "Easy Margin";
    const api = server({ "PUT /api/v1/halt": { ok: true } });
    const { unmount } = show(<Halted halt={{ at: "2026-03-03T09:15:00Z", by: "owner", why: "the feed looks odd" }} />);
    expect(screen.getByRole("alert").textContent).toContain("Everything is stopped.");
    expect(screen.getByRole("alert").textContent).toContain("by owner: the feed looks odd");
    expect(document.title).toBe("Stopped – Easy Margin");
    fireEvent.click(screen.getByRole("button", { name: "Lift the stop" }));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "PUT /api/v1/halt", body: { on: false } }]));
    unmount();
    expect(document.title).toBe("Easy Margin");
  });
  it("is pulled by one key", async () => {
    const api = server({ "PUT /api/v1/halt": { ok: true } });
    show(<PullStop />);
    fireEvent.keyDown(window, { key: "!" });
    await waitFor(() => expect(api.writes()).toEqual([{ what: "PUT /api/v1/halt", body: { on: true } }]));
  });
});
