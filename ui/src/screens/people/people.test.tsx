import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { People } from "./people";

const now = "2026-03-03T09:00:00Z";
const all = ["look", "prepare", "send", "buyers", "money", "settings", "people"];
const rights: Record<string, string[]> = {
  look: ["look"],
  prepare: ["look", "prepare"],
  send: all.slice(0, 5),
  owner: all,
};
const roles = [
  ...Object.entries(rights).map(([name, r]) => ({ id: 0, version: 0, name, rights: r, holders: 0 })),
  { id: 3, version: 1, name: "bookkeeper", rights: ["look", "money"], holders: 0 },
];
const clock = (role: string) => ({ demo: false, password: true, now, name: "Wren", role, rights: rights[role] });
const me = (role: string) => ({
  name: "Wren",
  role,
  rights: rights[role],
  asked: true,
  own: true,
  code: false,
  log_ins: [],
  tokens: [],
});

describe("people", () => {
  it("shows a token once, and ends one", async () => {
    const kept = { id: 7, name: "nightly", scope: "prepare", made: now };
    const api = server({
      "GET /api/v1/roles": roles,
      "GET /api/v1/demo": clock("prepare"),
      "GET /api/v1/me": { ...me("prepare"), tokens: [kept] },
      "POST /api/v1/me/tokens": { id: 8, token: "em_SECRET" },
      "DELETE /api/v1/me/tokens/7": { ok: true },
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
        { what: "POST /api/v1/me/tokens", body: { name: "stock", scope: "prepare", days: 90 } },
        { what: "DELETE /api/v1/me/tokens/7" },
      ]),
    );
    expect(screen.queryByText("Who works here")).toBeNull(); // that is the owner's
  });

  it("says which tokens ended with a password, and which still hold", async () => {
    const kept = { id: 7, name: "nightly", scope: "prepare", made: now };
    const api = server({
      "GET /api/v1/roles": roles,
      "GET /api/v1/demo": clock("prepare"),
      "GET /api/v1/me": { ...me("prepare"), tokens: [kept] },
      "PUT /api/v1/me/password": { ended: 0, kept: 1 },
    });
    show(<People />, "/people");
    fireEvent.change(await screen.findByLabelText("As it is"), { target: { value: "tide and marsh" } });
    fireEvent.change(screen.getByLabelText("New"), { target: { value: "salt and sand" } });
    fireEvent.click(screen.getByLabelText("End my 1 token too"));
    fireEvent.click(screen.getByText("Change it"));
    expect(await screen.findByText(/1 token still holds/)).toBeTruthy();
    expect(api.writes()).toEqual([
      { what: "PUT /api/v1/me/password", body: { old: "tide and marsh", new: "salt and sand", end_tokens: false } },
    ]);
  });

  it("sets a code up with what the authenticator shows, and says what is wrong with it", async () => {
    const api = server({
      "GET /api/v1/roles": roles,
      "GET /api/v1/demo": clock("look"),
      "GET /api/v1/me": me("look"),
      "POST /api/v1/me/second-factor": {
        secret: "ABC",
        address: "otpauth://totp/x",
        picture: "data:image/png;base64,AA",
      },
      "PUT /api/v1/me/second-factor": new Problem("this is not the code that holds now", 422),
    });
    show(<People />, "/people");
    fireEvent.click(await screen.findByText("Set one up"));
    expect(await screen.findByText("ABC")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("What it shows now"), { target: { value: "123456" } });
    fireEvent.click(screen.getByText("Ask me for codes from now on"));
    expect(await screen.findByText(/not the code that holds now/)).toBeTruthy();
    expect(api.writes().at(-1)).toEqual({ what: "PUT /api/v1/me/second-factor", body: { code: "123456" } });
  });

  it("lets the owner say who works here", async () => {
    const tern = { id: 2, version: 3, name: "Tern", role: "look", active: true, password: true, code: false };
    const api = server({
      "GET /api/v1/roles": roles,
      "GET /api/v1/demo": clock("owner"),
      "GET /api/v1/people": [{ ...tern, id: 1, name: "Wren", role: "owner" }, tern],
      "POST /api/v1/people": { id: 3 },
      "PUT /api/v1/people/2": { ok: true },
    });
    show(<People />, "/people?tab=team");
    fireEvent.click(await screen.findByText("Tern"));
    fireEvent.change(await screen.findByLabelText("Role"), { target: { value: "send" } });
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() =>
      expect(api.writes()[0]).toEqual({
        what: "PUT /api/v1/people/2",
        body: { name: "Tern", role: "send", active: true },
      }),
    );
    fireEvent.keyDown(document.body, { key: "n" });
    fireEvent.change(await screen.findByLabelText("Name"), { target: { value: "Knot" } });
    fireEvent.change(screen.getByLabelText("Password"), { target: { value: "salt and sand" } });
    fireEvent.click(screen.getByText("Let them work here"));
    await waitFor(() =>
      expect(api.writes()[1]).toEqual({
        what: "POST /api/v1/people",
        body: { name: "Knot", role: "look", active: true, password: "salt and sand" },
      }),
    );
  });

  it("finds who did what, and hands it out as it was asked for", async () => {
    server({
      "GET /api/v1/demo": clock("look"),
      "GET /api/v1/audit-entries/actors": ["easymargin", "Wren"],
      "GET /api/v1/audit-entries": {
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
      expect(screen.getByText("CSV").closest("a")?.getAttribute("href")).toBe(
        "/api/v1/audit-entries/export.csv?words=plan",
      ),
    );
  });

  it("lets a role be made of rights, and be changed", async () => {
    const api = server({ "GET /api/v1/roles": roles, "GET /api/v1/demo": clock("owner"), "GET /api/v1/people": [] });
    show(<People />, "/people?tab=team");
    fireEvent.click(await screen.findByText("Make a role"));
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "packer" } });
    fireEvent.click(screen.getByLabelText("sees buyers' names and addresses"));
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() =>
      expect(api.writes()[0]).toEqual({
        what: "POST /api/v1/roles",
        body: { name: "packer", rights: ["look", "buyers"] },
      }),
    );
    fireEvent.click(await screen.findByText("bookkeeper"));
    fireEvent.click(await screen.findByText("Delete it"));
    await waitFor(() => expect(api.writes().at(-1)?.what).toBe("DELETE /api/v1/roles/3"));
  });
});
