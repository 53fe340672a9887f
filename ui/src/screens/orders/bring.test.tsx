import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { server, show } from "../../parts/testing";
import { Bring } from "./bring";
import { Orders } from "./orders";
import { Purchases } from "./purchases";

const sites = [
  { id: 1, name: "Quaymarket GB", lists: true, address: "http://q" },
  { id: 9, name: "Gullery Fair", lists: true, address: "" },
];

describe("bringing orders in", () => {
  it("takes a report of the place that can't be asked, with its columns as they are chosen", async () => {
    const api = server({
      "GET /api/v1/sites": sites,
      "POST /api/v1/sites/9/order-reports/inspect": {
        token: "T1",
        name: "orders.csv",
        rows: 2,
        columns: [
          { name: "Order number", as: "order", samples: ["F-1"] },
          { name: "Code", as: "", samples: ["BR-1"] },
        ],
        missing: ["sku"],
      },
      "POST /api/v1/sites/9/order-reports": { count: 2 },
    });
    show(<Bring onDone={vi.fn()} />);
    fireEvent.change(await screen.findByTestId("file of Its order report"), {
      target: { files: [new File(["{}"], "orders.csv")] },
    });
    fireEvent.change(await screen.findByLabelText(/^Code/), { target: { value: "sku" } });
    fireEvent.click(screen.getByText("Take its 2 rows"));
    expect(await screen.findByText("2 orders taken.")).toBeTruthy();
    expect(api.writes().at(-1)).toEqual({
      what: "POST /api/v1/sites/9/order-reports",
      body: { token: "T1", columns: { "Order number": "order", Code: "sku" } },
    });
  });

  it("takes a statement, and says what of it is no fee and what isn't here", async () => {
    const api = server({
      "GET /api/v1/sites": sites.map((x) => ({ ...x, currency: "EUR" })),
      "POST /api/v1/sites/9/statements/inspect": {
        token: "T2",
        name: "statement.csv",
        rows: 4,
        columns: [{ name: "Order", as: "order", samples: ["F-1"] }],
        missing: [],
      },
      "POST /api/v1/sites/9/statements": { rows: 3, new: 2, kept: 1234, left: ["Payout"], unknown: ["F-9"] },
    });
    show(<Bring onDone={vi.fn()} />);
    fireEvent.change(await screen.findByTestId("file of Its statement"), {
      target: { files: [new File(["{}"], "statement.csv")] },
    });
    fireEvent.click(await screen.findByText("Take its 4 rows"));
    const words = await screen.findByText(/3 rows of fees read, 2 new/);
    expect(words.textContent).toContain("12.34");
    expect(words.textContent).toContain("Left, since they are no fees: Payout. Not here: F-9.");
    expect(api.writes().at(-1)?.body).toEqual({ token: "T2", columns: { Order: "order" } });
  });

  it("keeps one that is typed in", async () => {
    const api = server({ "GET /api/v1/sites": sites, "POST /api/v1/orders": { id: 5 } });
    const done = vi.fn();
    show(<Bring onDone={done} />);
    fireEvent.change(await screen.findByLabelText("Order"), { target: { value: "BY-PHONE-1" } });
    fireEvent.change(screen.getByLabelText("SKU 1"), { target: { value: "BR-1" } });
    fireEvent.change(screen.getByLabelText("Units 1"), { target: { value: "2" } });
    fireEvent.change(screen.getByLabelText("Price 1"), { target: { value: "9.50" } });
    fireEvent.click(screen.getByText("One more line"));
    fireEvent.change(screen.getByLabelText("SKU 2"), { target: { value: "BR-2" } });
    fireEvent.click(screen.getByLabelText("Line 1 away"));
    fireEvent.click(screen.getByText("Keep the order"));
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(api.writes()[0]).toEqual({
      what: "POST /api/v1/orders",
      body: {
        site_id: 9,
        ref: "BY-PHONE-1",
        buyer: { name: "", address: [], country: "" },
        lines: [{ sku: "BR-2", quantity: 1, price: "" }],
      },
    });
  });
});

describe("what goes to buyers and suppliers", () => {
  it("is marked as sent with carrier and number, once both are said", async () => {
    const api = server({
      "GET /api/v1/sites": sites,
      "GET /api/v1/demo": { now: "2026-03-03T08:40:00Z" },
      "GET /api/v1/counts": {},
      "GET /api/v1/order-lines": {
        rows: [
          {
            id: 3,
            order_id: 7,
            order: "GB-00001",
            site: "Quaymarket GB",
            placed: "2026-03-01T08:00:00Z",
            currency: "GBP",
            sku: "BR-1",
            title: "Lantern",
            quantity: 1,
            price: 1050,
            paid: 1050,
            state: "bought",
            problem: "",
            supplier: "Fernhollow",
            expected: 200,
            real: 200,
            late: true,
            picture: "",
          },
        ],
        total: 1,
        next: "",
        more: false,
      },
    });
    show(<Orders />, "/orders?part=send");
    expect(await screen.findByText("bought, late")).toBeTruthy();
    fireEvent.click(screen.getAllByRole("checkbox")[0]);
    fireEvent.change(screen.getByLabelText("Carrier"), { target: { value: "Harbour Post" } });
    expect((screen.getByText("1 on the way") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Tracking number"), { target: { value: "HP-1" } });
    fireEvent.click(screen.getByText("1 on the way"));
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/order-lines/mark-sent", body: { lines: [3], carrier: "Harbour Post", tracking: "HP-1" } },
      ]),
    );
  });

  it("is mailed to a supplier who takes mail, and noted when it has arrived", async () => {
    const row = {
      id: 1,
      supplier: "Fernhollow",
      ref: "P-00001",
      currency: "GBP",
      goods: 800,
      delivery: 495,
      topped_up: 0,
      lines: 2,
      made: "2026-03-03T08:00:00Z",
      by: "owner",
      arrived: null,
      orders_to: "orders@fernhollow.example",
      mailed: null,
      mail: "",
      mail_why: "",
    };
    const api = server({
      "GET /api/v1/demo": { now: "2026-03-03T08:40:00Z" },
      "GET /api/v1/purchases": {
        rows: [row, { ...row, id: 2, ref: "P-00002", orders_to: "", arrived: "2026-03-03T08:30:00Z" }],
        total: 2,
        next: "",
        more: false,
      },
    });
    show(<Purchases />);
    await screen.findByText("P-00001");
    expect(screen.getAllByText("Mail it")).toHaveLength(1);
    fireEvent.click(screen.getByText("Mail it"));
    await waitFor(() => expect(api.writes().map((w) => w.what)).toEqual(["POST /api/v1/purchases/1/mail"]));
    fireEvent.click(screen.getByText("It has arrived"));
    await waitFor(() => expect(api.writes().at(-1)?.what).toBe("POST /api/v1/purchases/1/receive"));
  });
});
