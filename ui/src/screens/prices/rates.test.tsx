import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Problem } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Rates } from "./rates";

const rate = (from: string, more: object = {}) => ({
  from,
  to: "GBP",
  rate: "0.8612",
  day: "2026-03-02",
  way: "fetched",
  stale: "",
  ...more,
});

const open = (answers: Record<string, unknown> = {}) => {
  const api = server({
    "GET /api/v1/exchange-rates": {
      address: "https://rates.example/today.csv",
      rates: [
        rate("EUR"),
        rate("USD", { stale: "it is of 2 January, and too old to be relied on" }),
        rate("SEK", { way: "" }),
        rate("NOK", { to: "EUR" }),
      ],
    },
    "PUT /api/v1/exchange-rates": { done: true },
    "POST /api/v1/exchange-rates/fetch": { count: 20 },
    ...answers,
  });
  show(<Rates to="GBP" />);
  return api;
};

describe("exchange rates", () => {
  it("say of which day they are, how they came, and which can't be relied on", async () => {
    open();
    expect((await screen.findByText("1 EUR = 0.8612 GBP")).parentElement?.textContent).toContain(
      "of 2 Mar 2026, fetched",
    );
    expect(screen.getByText("1 SEK = 0.8612 GBP").parentElement?.textContent).toContain("typed");
    expect(screen.getByText("it is of 2 January, and too old to be relied on")).toBeTruthy();
    expect(screen.queryByText(/1 NOK/)).toBeNull(); // into another currency
  });

  it("are typed in, the currency however it is written", async () => {
    const api = open();
    await screen.findByText("1 EUR = 0.8612 GBP");
    fireEvent.change(screen.getByLabelText("Currency"), { target: { value: "usd" } });
    fireEvent.change(screen.getByLabelText("Rate"), { target: { value: "0.7904" } });
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "PUT /api/v1/exchange-rates", body: { from: "USD", rate: "0.7904", to: "GBP" } },
      ]),
    );
  });

  it("say what is wrong with one", async () => {
    open({ "PUT /api/v1/exchange-rates": new Problem("write it as a number such as 0.8612", 422) });
    await screen.findByText("1 EUR = 0.8612 GBP");
    fireEvent.change(screen.getByLabelText("Rate"), { target: { value: "much" } });
    fireEvent.click(screen.getByText("Keep"));
    expect(await screen.findByText("write it as a number such as 0.8612")).toBeTruthy();
    expect((screen.getByLabelText("Rate") as HTMLInputElement).value).toBe("much");
  });

  it("are fetched from where they were last, and a file is not fetched", async () => {
    const api = open();
    await waitFor(() =>
      expect((screen.getByLabelText("Address of exchange rates") as HTMLInputElement).value).toBe(
        "https://rates.example/today.csv",
      ),
    );
    fireEvent.click(screen.getByText("From a file"));
    expect(api.writes()).toEqual([]); // choosing one asks nobody
    fireEvent.click(screen.getByText("Fetch now"));
    expect(await screen.findByText("20 rates fetched.")).toBeTruthy();
    expect(api.writes()).toEqual([
      { what: "POST /api/v1/exchange-rates/fetch", body: { address: "https://rates.example/today.csv" } },
    ]);
  });
});
