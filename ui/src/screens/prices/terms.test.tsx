import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { server, show } from "../../parts/testing";
import { Terms } from "./terms";

const site = {
  id: 4,
  version: 7,
  name: "Quaymarket GB",
  currency: "GBP",
  terms_unsaid: false,
  terms: {
    charged: "3.95",
    outbound: "2.85",
    handling: "0.00",
    cushion: "0%",
    allowances: [],
    delivery_bands: [],
    sending_bands: [],
  },
} as unknown as Schemas["SiteView"];

const would = {
  currency: "GBP",
  words: "",
  listings: 9,
  looked: 9,
  fits: 9,
  up: 1,
  down: 0,
  same: 5,
  unsellable: 3,
  priced: 0,
  without: 0,
  unread: 0,
  at_once: 1,
  bars: [],
  most: [
    {
      listing_id: 1,
      title: "Down quilt",
      sku: "Q",
      currency: "GBP",
      from: 18999,
      to: null,
      profit_was: 2356,
      profit: null,
      floor: null,
      why: "the packed weight of the product is not known",
      refused: "",
      lines: [],
    },
  ],
  worse: 0,
  better: 0,
};

describe("what holds for all on a site", () => {
  it("takes bands of postage in the place of one amount, and says before what they would do", async () => {
    const api = server({
      "GET /api/v1/exchange-rates": { address: "", rates: [] },
      "POST /api/v1/sites/4/preview": would,
      "PUT /api/v1/sites/4/terms": { done: true },
    });
    show(<Terms site={site} />);
    fireEvent.click(await screen.findByText("By weight, size, country or price…"));
    const grams = await screen.findByLabelText(/^Grams of band 1/);
    fireEvent.change(grams, { target: { value: "2000" } });
    fireEvent.change(screen.getByLabelText(/^Price from of band 1/), { target: { value: "25" } });
    expect(screen.queryByLabelText("The buyer pays for delivery")).toBeNull();
    expect(await screen.findByText(/Without a price, such as Down quilt: the packed weight/)).toBeTruthy();
    fireEvent.click(await screen.findByRole("button", { name: "Keep and send up to 1" }));
    await waitFor(() =>
      expect(api.writes().find((w) => w.what === "PUT /api/v1/sites/4/terms")?.body).toEqual(
        expect.objectContaining({
          outbound: "2.85",
          delivery_bands: [expect.objectContaining({ weight: 2000, from: "25", amount: "3.95" })],
        }),
      ),
    );
  });
});
