import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { LookUps } from "./lookups";

const open = (answers: Record<string, unknown> = {}) => {
  const api = server({
    "GET /api/v1/filters": {
      sieves: [],
      columns: [],
      look_ups: [{ id: 3, name: "Number register", address: "https://numbers.example/find?number={number}" }],
    },
    "POST /api/v1/web-look-ups": { id: 4 },
    ...answers,
  });
  show(<LookUps />);
  return api;
};

const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

describe("where things are looked up", () => {
  it("is kept with a name, and written anew after that", async () => {
    const api = open();
    expect(await screen.findByText("https://numbers.example/find?number={number}")).toBeTruthy();
    const keep = screen.getByText("Keep") as HTMLButtonElement;
    type("Name", "Find");
    expect(keep.disabled).toBe(true);
    type("Address", "https://find.example/?q={words}");
    fireEvent.click(keep);
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/web-look-ups", body: { name: "Find", address: "https://find.example/?q={words}" } },
      ]),
    );
    await waitFor(() => expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe(""));
  });

  it("says what is wrong with an address, and what was typed stays", async () => {
    open({ "POST /api/v1/web-look-ups": new Problem("the address has neither {words} nor {number}", 422) });
    await screen.findByText("Number register");
    type("Name", "Find");
    type("Address", "https://find.example/");
    fireEvent.click(screen.getByText("Keep"));
    expect(await screen.findByText("the address has neither {words} nor {number}")).toBeTruthy();
    expect((screen.getByLabelText("Address") as HTMLInputElement).value).toBe("https://find.example/");
  });

  it("is forgotten by itself", async () => {
    const api = open();
    fireEvent.click(await screen.findByLabelText("Forget Number register"));
    await waitFor(() => expect(api.writes()).toEqual([{ what: "DELETE /api/v1/web-look-ups/3" }]));
  });
});
