import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { People } from "./people";

const now = "2026-03-03T09:00:00Z";
const clock = (role: string) => ({ demo: false, password: true, now, name: "Wren", role });
const me = (role: string) => ({ name: "Wren", role, asked: true, own: true, code: false, log_ins: [], tokens: [] });

describe("people", () => {
  it("shows a token once, and ends one", async () => {
    const kept = { id: 7, name: "nightly", scope: "prepare", made: now };
    const api = server({
      "GET /api/demo": clock("prepare"),
      "GET /api/me": { ...me("prepare"), tokens: [kept] },
      "POST /api/me/tokens": { id: 8, token: "em_SECRET" },
      "DELETE /api/me/tokens/7": { ok: true },
    });
    show(<People />, "/people");
    fireEvent.change(await screen.findByLabelText("For what"), { target: { value: "stock" } });
    const may = screen.getByLabelText("May") as HTMLSelectElement;
    expect([...may.options].map((o) => o.value)).toEqual(["look", "prepare"]);
    fireEvent.change(may, { target: { value: "prepare" } });
    fireEvent.click(screen.getByText("Make it"));
    expect(await screen.findByText("em_SECRET")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("End it: nightly"));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/me/tokens", body: { name: "stock", scope: "prepare", days: 90 } },
        { what: "DELETE /api/me/tokens/7" },
      ]),
    );
    expect(screen.queryByText("Who works here")).toBeNull(); // that is the owner's
  });

  it("says which tokens ended with a password, and which still hold", async () => {
    const kept = { id: 7, name: "nightly", scope: "prepare", made: now };
    const api = server({
      "GET /api/demo": clock("prepare"),
      "GET /api/me": { ...me("prepare"), tokens: [kept] },
      "PUT /api/me/password": { ended: 0, kept: 1 },
    });
    show(<People />, "/people");
    fireEvent.change(await screen.findByLabelText("As it is"), { target: { value: "tide and marsh" } });
    fireEvent.change(screen.getByLabelText("New"), { target: { value: "salt and sand" } });
    fireEvent.click(screen.getByLabelText("End my 1 token too"));
    fireEvent.click(screen.getByText("Change it"));
    expect(await screen.findByText(/1 token still holds/)).toBeTruthy();
    expect(api.writes()).toEqual([
      { what: "PUT /api/me/password", body: { old: "tide and marsh", new: "salt and sand", end_tokens: false } },
    ]);
  });

  it("sets a code up with what the authenticator shows, and says what is wrong with it", async () => {
    const api = server({
      "GET /api/demo": clock("look"),
      "GET /api/me": me("look"),
      "POST /api/me/code": { secret: "ABC", address: "otpauth://totp/x", picture: "data:image/png;base64,AA" },
      "PUT /api/me/code": new Problem("this is not the code that holds now", 422),
    });
    show(<People />, "/people");
    fireEvent.click(await screen.findByText("Set one up"));
    expect(await screen.findByText("ABC")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("What it shows now"), { target: { value: "123456" } });
    fireEvent.click(screen.getByText("Ask me for codes from now on"));
    expect(await screen.findByText(/not the code that holds now/)).toBeTruthy();
    expect(api.writes().at(-1)).toEqual({ what: "PUT /api/me/code", body: { code: "123456" } });
  });

  it("lets the owner say who works here", async () => {
    const tern = { id: 2, version: 3, name: "Tern", role: "look", active: true, password: true, code: false };
    const api = server({
      "GET /api/demo": clock("owner"),
      "GET /api/people": [{ ...tern, id: 1, name: "Wren", role: "owner" }, tern],
      "POST /api/people": { id: 3 },
      "PUT /api/people/2": { ok: true },
    });
    show(<People />, "/people?tab=team");
    fireEvent.click(await screen.findByText("Tern"));
    fireEvent.change(await screen.findByLabelText("Role"), { target: { value: "send" } });
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() =>
      expect(api.writes()[0]).toEqual({
        what: "PUT /api/people/2",
        body: { name: "Tern", role: "send", active: true },
      }),
    );
    fireEvent.keyDown(document.body, { key: "n" });
    fireEvent.change(await screen.findByLabelText("Name"), { target: { value: "Knot" } });
    fireEvent.change(screen.getByLabelText("Password"), { target: { value: "salt and sand" } });
    fireEvent.click(screen.getByText("Let them work here"));
    await waitFor(() =>
      expect(api.writes()[1]).toEqual({
        what: "POST /api/people",
        body: { name: "Knot", role: "look", active: true, password: "salt and sand" },
      }),
    );
  });

  it("finds who did what, and hands it out as it was asked for", async () => {
    server({
      "GET /api/demo": clock("look"),
      "GET /api/audit/names": ["easymargin", "Wren"],
      "GET /api/audit": {
        rows: [{ id: 1, at: now, who: "easymargin", what: "plan sent", subject: "plan 4", detail: "12 lines" }],
        total: 1,
        next: "",
      },
    });
    show(<People />, "/people?tab=deeds");
    expect(await screen.findByText("plan 4")).toBeTruthy();
    expect(screen.getByText("by itself")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Words"), { target: { value: "plan" } });
    await waitFor(() =>
      expect(screen.getByText("CSV").closest("a")?.getAttribute("href")).toBe("/api/audit/file.csv?words=plan"),
    );
  });
});
