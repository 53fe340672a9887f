import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../api/client";
import { Runs } from "./runs";
import { server, show } from "./testing";

const run = (id: number, state: string, more = {}) => ({
  id,
  kind: "retouch",
  title: `Pictures of ${id} listings`,
  subject: id,
  state,
  done: 0,
  total: 0,
  note: "",
  error: "",
  actor: "owner",
  created: "2026-03-03T09:15:00Z",
  started: null,
  ended: null,
  ...more,
});

describe("a run that is set aside", () => {
  it("is said in the frame, stands first, and is tried again by a press", async () => {
    const api = server({
      "GET /api/v1/runs": [
        run(7, "set aside", { error: "the program ended twice while this went on", ended: "2026-03-03T09:15:00Z" }),
        run(8, "done"),
      ],
      "POST /api/v1/runs/7/retry": { ok: true },
    });
    show(<Runs />, "/?runs=open");
    const again = await screen.findByRole("button", { name: "Try it again" });
    expect(screen.getByRole("button", { name: "A run is set aside" })).toBeTruthy();
    expect(screen.getByText("the program ended twice while this went on")).toBeTruthy();
    fireEvent.click(again);
    await waitFor(() => expect(api.writes()).toEqual([{ what: "POST /api/v1/runs/7/retry" }]));
  });
  it("says why it can't be tried again, and the panel closes by key", async () => {
    server({
      "GET /api/v1/runs": [run(7, "set aside")],
      "POST /api/v1/runs/7/retry": new Problem("this run isn't set aside any more", 409),
    });
    show(<Runs />, "/?runs=open");
    fireEvent.click(await screen.findByRole("button", { name: "Try it again" }));
    expect(await screen.findByText(/isn't set aside any more/)).toBeTruthy();
    fireEvent.keyDown(window, { key: "Escape" });
    await waitFor(() => expect(screen.queryByRole("button", { name: "Try it again" })).toBeNull());
  });
});
