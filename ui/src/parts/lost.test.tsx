import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Lost } from "./lost";
import { show } from "./testing";

describe("an address that no screen has", () => {
  it("says so, names it, and offers the way back", () => {
    show(<Lost />, "/no/such%20place");
    expect(screen.getByText("No screen has this address")).toBeTruthy();
    expect(screen.getByText(/no\/such/)).toBeTruthy();
    expect(screen.getByRole("button", { name: /Go to Today/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: /Go back/ })).toBeTruthy();
    fireEvent.keyDown(window, { key: "." });
    expect(screen.queryByText(/no\/such/)).toBeNull();
  });
});
