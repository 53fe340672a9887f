import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { server, show } from "../../parts/testing";
import { SaidThere } from "./beside";
import { LightFiles } from "./light";
import { MendFile } from "./mends";

const clock = { now: "2026-03-03T08:40:00Z", speed: 0 };

describe("mending in a file", () => {
  it("shows what the file says otherwise before it is kept, and chooses those", async () => {
    const api = server({
      "POST /api/v1/sites/4/mends/inspect": {
        token: "T1",
        rows: 3,
        changes: [{ id: 7, sku: "CF-7", title: "Mug", field: "title", before: "Mug", after: "Mug, titanium" }],
        unused: ["Price"],
        strange: ["NOBODY-1"],
      },
      "POST /api/v1/sites/4/mends": [7],
    });
    const chosen = vi.fn();
    show(<MendFile site={4} name="Copperfold NO" onChoose={chosen} />);
    fireEvent.change(screen.getByTestId("file of Mend what Copperfold NO refused in a file"), {
      target: { files: [new File(["{}"], "report.csv")] },
    });
    expect(await screen.findByText("Mug, titanium")).toBeTruthy();
    expect(screen.getByText(/NOBODY-1/)).toBeTruthy();
    expect(screen.getByText(/Price/)).toBeTruthy();
    expect(chosen).not.toHaveBeenCalled();
    fireEvent.keyDown(document.body, { key: "k" });
    await waitFor(() => expect(chosen).toHaveBeenCalledWith([7]));
    expect(api.writes().at(-1)).toEqual({ what: "POST /api/v1/sites/4/mends", body: { token: "T1" } });
  });
});

describe("light files", () => {
  it("keeps one with its columns, and says what is wrong where it is", async () => {
    const api = server({
      "GET /api/v1/price-stock-files": [],
      "GET /api/v1/sites": [{ id: 2, name: "Gullery Fair IE", lists: true, kind: "" }],
      "GET /api/v1/demo": clock,
      "POST /api/v1/price-stock-files": { id: 9 },
    });
    show(<LightFiles />);
    fireEvent.click(await screen.findByText("New light file…"));
    fireEvent.change(await screen.findByLabelText("File"), { target: { value: "stock.tsv" } });
    fireEvent.click(screen.getByText("One more column"));
    fireEvent.change(screen.getByLabelText("Header of column 4"), { target: { value: "Do" } });
    fireEvent.change(screen.getByLabelText("Word for the end"), { target: { value: "D" } });
    fireEvent.click(screen.getByText("Keep it"));
    await waitFor(() => expect(api.writes()).toHaveLength(1));
    const { what, body } = api.writes()[0] as { what: string; body: Record<string, unknown> };
    expect(what).toBe("POST /api/v1/price-stock-files");
    expect(body).toMatchObject({
      name: "stock.tsv",
      site_id: 2,
      end_word: "D",
      columns: [
        { header: "sku", from: "sku" },
        { header: "price", from: "price" },
        { header: "quantity", from: "quantity" },
        { header: "Do", from: "do" },
      ],
    });
  });
});

describe("what is said there", () => {
  it("keeps of it what is ticked", async () => {
    const api = server({
      "GET /api/v1/demo": clock,
      "GET /api/v1/content-differences": {
        rows: [
          {
            id: 7,
            sku: "LR-7",
            title: "Mug",
            site: "Lantern Row GB",
            category: "Cooking",
            fields: ["title", "pictures"],
            seen: "2026-03-03T08:00:00Z",
            picture: "",
          },
        ],
        total: 1,
        next: "",
        more: false,
      },
      "GET /api/v1/listings/7/comparison": [
        { field: "pictures", sent: "2", there: "1", wanted: "2", may_keep: false },
        { field: "title", sent: "Mug", there: "A mug of theirs", wanted: "Mug, moss", may_keep: true },
      ],
      "POST /api/v1/content-differences/settle": { done: true },
    });
    show(<SaidThere />, "/send?tab=words&side=there&open=7");
    expect(await screen.findByText("A mug of theirs")).toBeTruthy();
    expect(screen.getByText("Mug, moss")).toBeTruthy();
    const [pictures, title] = screen.getAllByRole("checkbox") as HTMLInputElement[];
    expect(pictures.disabled).toBe(true);
    fireEvent.click(title);
    fireEvent.keyDown(document.body, { key: "." });
    await waitFor(() =>
      expect(api.writes()).toEqual([
        { what: "POST /api/v1/content-differences/settle", body: { ids: [7], theirs: ["title"] } },
      ]),
    );
  });
});
