import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Keeping } from "./keeping";

const kept = {
  version: 4,
  tidied: "2026-03-03T03:00:00Z",
  note: "12 runs and 3 files",
  kinds: [
    { kind: "files", words: "Suppliers' files", days: 30, least: 3 },
    { kind: "buyers", words: "Buyers' names and addresses", days: 90, least: 1 },
  ],
};

const open = (answers: Record<string, unknown> = {}) => {
  const api = server({
    "GET /api/v1/demo": { now: "2026-03-03T08:40:00Z", speed: 0 },
    "GET /api/v1/retention": kept,
    "PUT /api/v1/retention": { done: true },
    ...answers,
  });
  show(<Keeping />, "/keeping", "/keeping");
  return api;
};

const days = (words: string) =>
  screen
    .getByText(words, { exact: false })
    .closest("label, div")
    ?.parentElement?.querySelector("input") as HTMLInputElement;

describe("what is kept", () => {
  it("says for how long, how long at least, and what was tidied away last", async () => {
    open();
    expect(await screen.findByText("Tidied 03:00: 12 runs and 3 files.")).toBeTruthy();
    expect(days("Suppliers' files").value).toBe("30");
    expect(screen.getByText("at least 3")).toBeTruthy();
    expect((screen.getByText("Keep these") as HTMLButtonElement).disabled).toBe(true); // nothing was changed
  });

  it("is set, and says at the field what can't be", async () => {
    const api = open({
      "PUT /api/v1/retention": new Problem("at least 3 days", 422, { "days.files": "at least 3 days" }),
    });
    await screen.findByText("at least 3");
    fireEvent.change(days("Suppliers' files"), { target: { value: "1" } });
    fireEvent.click(screen.getByText("Keep these"));
    expect(await screen.findByText("at least 3 days")).toBeTruthy();
    expect(api.writes()[0].body).toEqual({ days: { files: 1, buyers: 90 } });
  });

  it("goes back to Today by key", async () => {
    open();
    await screen.findByText("at least 3");
    fireEvent.keyDown(document.body, { key: "Escape" });
    await waitFor(() => expect(screen.getByText("another screen")).toBeTruthy());
  });
});
