import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../parts/testing";
import { MailForm } from "./mail";

const set = {
  version: 2,
  host: "mail.example",
  port: 587,
  security: "starttls",
  username: "saltmarsh",
  known: true,
  from: "shop@saltmarsh.example",
  to: "owner@saltmarsh.example",
  link: "http://127.0.0.1:8640",
};

const open = (answers: Record<string, unknown> = {}) => {
  const api = server({
    "GET /api/v1/demo": { now: "2026-03-03T08:40:00Z", speed: 0, demo: true },
    "GET /api/v1/mail-settings": set,
    "GET /api/v1/mails": [
      { id: 2, subject: "A feed is held", sent: null, error: "the server said: try again later" },
      { id: 1, subject: "2 listings sell at a loss", sent: "2026-03-03T07:05:00Z", error: "" },
    ],
    "GET /api/v1/demo/letters": [
      { id: 1, subject: "<b>Hello</b>", body: "<script>alert(1)</script>", at: "2026-03-03T07:05:00Z" },
    ],
    "PUT /api/v1/mail-settings": { done: true },
    ...answers,
  });
  show(<MailForm />);
  return api;
};

describe("mail", () => {
  it("says of each whether it went, and why not", async () => {
    open();
    const sent = await screen.findByRole("region", { name: "Mails sent" });
    expect(within(sent).getByText("not yet")).toBeTruthy();
    expect(within(sent).getByText("A feed is held").getAttribute("title")).toBe("the server said: try again later");
    expect(within(sent).getByText("07:05")).toBeTruthy();
    expect(await screen.findByText("<b>Hello</b>")).toBeTruthy(); // what a mail says is text
    expect(document.querySelector("script")).toBeNull();
  });

  it("keeps the password that is there unless another is typed, and never shows it", async () => {
    const api = open();
    const password = (await screen.findByLabelText("Password")) as HTMLInputElement;
    expect(password.value).toBe("");
    expect(password.type).toBe("password");
    expect(password.placeholder).toBe("the one that is kept");
    fireEvent.change(screen.getByLabelText("To"), { target: { value: "wren@saltmarsh.example" } });
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() => expect(api.writes()).toHaveLength(1));
    expect(api.writes()[0].body).toMatchObject({ to: "wren@saltmarsh.example", host: "mail.example", port: 587 });
    expect(api.writes()[0].body).not.toHaveProperty("password");
    expect(await screen.findByText("Kept.")).toBeTruthy();
  });
});
