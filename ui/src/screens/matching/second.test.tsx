import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { server, show } from "../../parts/testing";
import { Seconds } from "./second";

const second = (id: number, more: object = {}) => ({
  id,
  product_id: 40 + id,
  listing_id: 70 + id,
  title: `Enamel mug ${id}`,
  sku: `M-${id}`,
  site: "Quaymarket GB",
  now: "Brindlewick Outdoor",
  paid: 1310,
  supplier: "Fernhollow Wholesale",
  ref: `FW-${id}`,
  units_bought: 1,
  landed: 542,
  saves: 768,
  sold: 3,
  month: 2304,
  currency: "GBP",
  stock: 9,
  why: "",
  ...more,
});

const open = () => {
  const api = server({
    "GET /api/v1/second-supplies": {
      rows: [second(1), second(2, { landed: null, month: 0, why: "no exchange rate from EUR to GBP" })],
      total: 2,
      next: "",
    },
    "POST /api/v1/second-supplies/take": { ids: [1] },
    "POST /api/v1/second-supplies/take-back": { done: true },
    "PUT /api/v1/second-supplies/2/dismissed": { done: true },
  });
  show(<Seconds />);
  return api;
};

describe("second suppliers", () => {
  it("are taken by key, but for those that are left out, and taken back by key", async () => {
    const api = open();
    const row = (await screen.findByText("Enamel mug 2")).closest("[role=row]") as HTMLElement;
    expect(screen.getByText("Enamel mug 1").closest("[role=row]")?.textContent).toContain("7.68");
    expect(row.textContent).toContain("no exchange rate from EUR to GBP");
    fireEvent.click(row.querySelector("input") as HTMLElement);
    expect(await screen.findByRole("button", { name: /Buy from 1 too/ })).toBeTruthy();
    fireEvent.keyDown(window, { key: "a" });
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "POST /api/v1/second-supplies/take", body: { ids: [1] } }]),
    );
    await screen.findByRole("button", { name: /Take back/ });
    fireEvent.keyDown(window, { key: "z" });
    await waitFor(() =>
      expect(api.writes()[1]).toEqual({ what: "POST /api/v1/second-supplies/take-back", body: { ids: [1] } }),
    );
  });
  it("can be said to be another thing", async () => {
    const api = open();
    fireEvent.click(
      await screen.findByRole("button", { name: "Enamel mug 2 of Fernhollow Wholesale is another thing" }),
    );
    await waitFor(() =>
      expect(api.writes()).toEqual([{ what: "PUT /api/v1/second-supplies/2/dismissed", body: { dismissed: true } }]),
    );
  });
});
