import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { useState } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "../../api/client";
import { ProfitCurve, range, rows, steps } from "../../parts/curve";
import { faults } from "../../parts/field";
import { plain } from "../../parts/money";
import { Working } from "../../parts/working";
import { system } from "../../theme";
import { FeeDrawn, WarehouseDrawn, type Written } from "./bands";
import { type Answer, figures } from "./bench";
import { clean } from "./feeeditor";
import { Moves } from "./moves";
import { Histogram, PreviewPane } from "./preview";
import { fresh, percent, toForm, toRule } from "./ruleform";
import { type Warehouse, WarehouseEditor } from "./warehouse";
import { Everywhere, Answer as WhatIfAnswer } from "./whatifanswer";
import { Wish } from "./wish";

afterEach(cleanup);

function show(ui: React.ReactNode) {
  const router = createMemoryRouter([{ path: "*", element: ui }]);
  return render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient()}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>,
  );
}

describe("a rule as it is written", () => {
  const rule: Schemas["NamedRule"] = {
    id: 7,
    name: "Mugs",
    fits: {
      brands: ["Tarnwick", "Ottermere"],
      categories: ["mugs"],
      cost_from: "5.00",
      weight_to: 900,
      skus: ["A-1", "A-2"],
    },
    rule: {
      aims: [
        { kind: "margin", value: "18%" },
        { kind: "markup", value: "40%", plus: "1.00" },
      ],
      keep: [{ kind: "profit", value: "1.00" }],
      least: "5.00",
      endings: { every: "1.00", at: ["0.49", "0.99"], way: "down" },
      market: { stance: "below", against: "lead", by: "2%", may_exceed_aim: true },
    },
  };
  it("comes back as it was", () => {
    expect(JSON.parse(JSON.stringify(toRule(toForm(rule, "GBP"), false)))).toEqual(rule);
  });
  it("holds for all the rest where it is the last, whatever was typed for which", () => {
    expect(toRule({ ...toForm(rule, "GBP"), brands: "x" }, true).fits).toBeUndefined();
  });
  it("mends what is easily left out, and nothing else", () => {
    const form = {
      ...toForm(rule, "GBP"),
      aims: [{ kind: "margin" as const, value: " 18.5 " }],
      at: "0.49 0.99;",
      by: "",
    };
    const made = toRule({ ...form, stance: "equal" }, false).rule;
    expect(made.aims[0].value).toBe("18.5%");
    expect(made.endings?.at).toEqual(["0.49", "0.99"]);
    expect(made.market?.by).toBeUndefined();
    expect(percent("a lot")).toBe("a lot%");
    expect(percent("12 %")).toBe("12%");
    expect(percent("")).toBe("");
  });
  it("leaves rivals and endings out where they don't matter", () => {
    const made = toRule({ ...toForm(rule, "GBP"), stance: "ignore", ends: false }, false).rule;
    expect(made.market).toBeUndefined();
    expect(made.endings).toBeUndefined();
  });
  it("begins with figures that the currency has", () => {
    expect(fresh("JPY").rule.keep[0].value).toBe("100");
    expect(toForm({ ...fresh("JPY"), rule: { aims: [], keep: [] } }, "JPY")).toMatchObject({
      by: "1",
      every: "100",
      ends: false,
    });
    expect(fresh("GBP").rule.endings?.at).toEqual(["0.49", "0.99"]);
  });
});

describe("faults", () => {
  it("finds what is said of a field, its parts and its places", () => {
    const f = faults(new Problem("no", 422, { "rule.aims[1].value": "too many decimals", "cost.unit": "letters" }));
    expect(f.of("rule.aims")).toBe("too many decimals");
    expect(f.of("cost")).toBe("letters");
    expect(f.of("rule.aim")).toBeUndefined();
    expect(f.rest).toBeNull();
  });
  it("says the rest once", () => {
    const lost = new Problem("can't be reached", 0);
    expect(faults(lost).rest).toBe(lost);
    const whole = new Problem("not an object", 422, { body: "not an object" });
    expect(faults(whole).rest).toBe(whole);
    expect(faults(null).rest).toBeNull();
  });
});

const answer = (more: Partial<Answer> = {}): Answer =>
  ({
    site: "Quaymarket GB",
    site_id: 1,
    currency: "GBP",
    price: 2500,
    profit: 400,
    landed: 1000,
    break_even: 2000,
    floor: 2100,
    live: null,
    charged: 0,
    lines: [
      { kind: "price", name: "item price", amount: 2500 },
      { kind: "delivery", name: "delivery charged", amount: 200 },
      { kind: "tax", name: "tax", amount: -450 },
      { kind: "fee", name: "commission", amount: -300 },
      { kind: "fee tax", name: "commission tax", amount: -60 },
      { kind: "allowance", name: "returns", amount: -50 },
      { kind: "cost", name: "landed cost", amount: -1000 },
      { kind: "outbound", name: "outbound", amount: -440 },
    ],
    curve: [
      { price: 1, profit: -1400 },
      { price: 2500, profit: 400 },
      { price: 2501, profit: 350 },
      { price: 3200, profit: 900 },
    ],
    falls: [{ from: 2501, to: 2570, best: 2500, less: 50 }],
    rivals: [
      { seller: "Lowfell Stores", item: 2399, delivery: 100, lead: true, ours: false },
      { seller: "Saltmarsh Kit", item: 2500, delivery: 0, lead: false, ours: true },
    ],
    rule: { name: "All the rest", price: 2699, bound: "aim", why: "meets the rule's aim" },
    ...more,
  }) as Answer;

describe("the bench's figures", () => {
  it("sums the lines into the parts of a strip, to the penny", () => {
    const f = figures(answer());
    expect(f).toMatchObject({ outbound: 240, fees: 410, tax: 450, landed: 1000, profit: 400, price: 2500 });
    expect((f.landed ?? 0) + (f.outbound ?? 0) + (f.fees ?? 0) + (f.tax ?? 0) + (f.profit ?? 0)).toBe(2500);
  });
  it("writes amounts as a person types them", () => {
    expect(plain(1234567, "GBP")).toBe("12345.67");
    expect(plain(-120, "GBP")).toBe("-1.20");
    expect(plain(4980, "JPY")).toBe("4980");
  });
});

describe("the curve", () => {
  it("shows the prices around all that is marked", () => {
    expect(range(answer())).toEqual([1440, 3200]);
    expect(
      range(answer({ price: null, break_even: null, floor: null, rule: { ...answer().rule, price: null } })),
    ).toEqual([1, 3200]);
  });
  it("has round steps, few enough to read", () => {
    expect(steps(1440, 3200)).toEqual([1500, 2000, 2500, 3000].filter((v) => v % 500 === 0));
    for (const [lo, hi] of [
      [1, 90],
      [900, 1700],
      [10_000, 250_000],
      [1, 9_999_999],
    ])
      expect(steps(lo, hi).length).toBeLessThanOrEqual(9);
  });
  it("keeps labels apart by rows", () => {
    expect(
      rows([
        { x: 100, width: 80 },
        { x: 130, width: 80 },
        { x: 300, width: 80 },
      ]),
    ).toEqual([0, 1, 0]);
  });
  it("says where more costs less, and who leads", () => {
    show(<ProfitCurve answer={answer()} onPrice={() => {}} />);
    expect(screen.getByText(/25\.01 to 25\.70 earns less than 25\.00: up to 0\.50 less/)).toBeTruthy();
    expect(screen.getByText(/Lowfell Stores: 23\.99 and 1\.00 delivery, leading/)).toBeTruthy();
    expect(screen.queryByText(/Saltmarsh Kit/)).toBeNull();
    expect(screen.getByText("by the rule 26.99")).toBeTruthy();
  });
  it("moves our mark by the arrow keys, a minor unit at a time", () => {
    const to = vi.fn();
    show(<ProfitCurve answer={answer()} onPrice={to} />);
    const mark = screen.getByRole("slider", { name: "Our price" });
    expect(mark.getAttribute("aria-valuetext")).toBe("25.00 GBP leaves 4.00");
    fireEvent.keyDown(mark, { key: "ArrowRight" });
    fireEvent.keyDown(mark, { key: "PageDown" });
    fireEvent.keyDown(mark, { key: "a" });
    expect(to.mock.calls).toEqual([[2501], [2400]]);
  });
});

describe("fees", () => {
  const schedule: Written = {
    category: "light",
    starts_on: "2026-04-01",
    fees: [
      { name: " commission ", of: "total", rate: "15", fixed: " ", least: "0.30", tax: "20" },
      {
        name: "sale fee",
        of: "item",
        rate: "9%",
        banding: "whole",
        bands: [
          { to: "20.00", rate: "11", fixed: "0.20" },
          { to: "75.00", rate: "9.8%", fixed: "" },
        ],
      },
    ],
  };
  it("are sent as a file has them", () => {
    expect(JSON.parse(JSON.stringify(clean(schedule).fees))).toEqual([
      { name: "commission", of: "total", rate: "15%", least: "0.30", tax: "20%" },
      {
        name: "sale fee",
        of: "item",
        banding: "whole",
        bands: [{ to: "20.00", rate: "11%", fixed: "0.20" }, { rate: "9.8%" }],
      },
    ]);
  });
  it("has the warehouse's steps without what is empty", () => {
    const warehouse = {
      name: " warehouse fee ",
      divisor: 0,
      tax: "20",
      steps: [{ name: "letter ", longest: 330, median: 0, fee: " 1.98", over: 0, half_kilo: " " }],
    };
    expect(JSON.parse(JSON.stringify(clean({ ...schedule, warehouse }).warehouse))).toEqual({
      name: "warehouse fee",
      tax: "20%",
      steps: [{ name: "letter", longest: 330, fee: "1.98" }],
    });
    expect(clean(schedule).warehouse).toBeUndefined();
  });
  it("says what fits each step of the warehouse", () => {
    const step = { name: "letter", fee: "1.98" };
    const steps = [
      { ...step, longest: 330, median: 230, shortest: 25, weight: 460 },
      { ...step, name: "long", longest: 1200, girth: 2400, half_kilo: "0.38", over: 5000 },
      { ...step, name: "flat", shortest: 25 },
      { ...step, name: "rest" },
    ];
    show(<WarehouseDrawn of={{ name: "warehouse fee", steps }} />);
    const cells = screen.getAllByRole("row").map((r) => r.textContent);
    expect(cells).toEqual([
      "letterup to 330 × 230 × 25 mm, 460 g1.98",
      "longup to 1200 mm, 2400 mm around1.98and 0.38 per ½ kg over 5000 g",
      "flatup to any × any × 25 mm1.98",
      "restanything else1.98",
    ]);
  });
  it("are drawn as steps that a reader hears as words", () => {
    show(<FeeDrawn fee={schedule.fees[1]} changed />);
    expect(screen.getByRole("img", { name: "11 and 0.20 up to 20.00, 9.8% up to 75.00" })).toBeTruthy();
    expect(screen.getByText(/all of it at the rate it falls in, of the item price/)).toBeTruthy();
    expect(screen.getByText("changed")).toBeTruthy();
  });
});

const move = (id: number, more: Partial<Schemas["Move"]> = {}): Schemas["Move"] => ({
  listing_id: id,
  title: `mug ${id}`,
  sku: `M-${id}`,
  currency: "GBP",
  from: 1099,
  to: 1149,
  profit_was: 150,
  profit: 190,
  floor: 900,
  why: "meets the rule's aim",
  refused: "",
  lines: [
    { kind: "price", name: "item price", amount: 1149 },
    { kind: "cost", name: "landed cost", amount: -959 },
  ],
  ...more,
});

describe("prices that would move", () => {
  it("open into their lines, one at a time", () => {
    show(<Moves moves={[move(1), move(2)]} currency="GBP" />);
    fireEvent.click(screen.getByRole("button", { name: "mug 1" }));
    expect(within(screen.getByTestId("lines")).getByText("1.90 GBP")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "mug 2" }));
    expect(screen.getAllByTestId("lines")).toHaveLength(1);
  });
  it("say what can't be fixed, and why", () => {
    show(<Moves moves={[move(1, { refused: "mug 1 would ask 8.00, under its floor of 9.00 GBP" })]} currency="GBP" />);
    expect(screen.getByText(/under its floor of 9\.00 GBP/)).toBeTruthy();
  });
});

describe("a preview", () => {
  const bars: Schemas["Bar"][] = [
    { from: null, to: -5, count: 3 },
    { from: -5, to: 0, count: 0 },
    { from: 0, to: 5, count: 12 },
    { from: 5, to: null, count: 1 },
  ];
  it("draws how many move by how much, or nothing", () => {
    const { unmount } = show(<Histogram bars={bars} />);
    expect(screen.getByTitle("under −5 %: 3")).toBeTruthy();
    expect(screen.getByTitle("0 to 5 %: 12")).toBeTruthy();
    expect(screen.getByTitle("5 % and more: 1")).toBeTruthy();
    unmount();
    show(<Histogram bars={bars.map((b) => ({ ...b, count: 0 }))} />);
    expect(screen.queryByRole("figure")).toBeNull();
  });
  it("says what would become unsellable, loudly", () => {
    const p = {
      currency: "GBP",
      words: "at least 18% margin",
      listings: 20,
      fits: 16,
      up: 13,
      down: 3,
      same: 0,
      unsellable: 2,
      priced: 0,
      without: 1,
      unread: 4,
      bars,
      most: [move(1, { to: null, profit: null, lines: [] })],
      worse: 120,
      better: 560,
    };
    show(<PreviewPane site={1} preview={p} busy={false} wrong={false} />);
    expect(screen.getByText("unsellable").previousSibling?.textContent).toBe("2");
    expect(screen.getByText("1 would stay without a price.")).toBeTruthy();
    expect(screen.getByText(/never read for 4 of them/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Read it now" })).toBeTruthy();
    expect(screen.getByText("5.60 GBP")).toBeTruthy();
  });
});

describe("the warehouse's steps as they are written", () => {
  const begin: Warehouse = { name: "warehouse fee", steps: [{ name: "letter", longest: 330, fee: "1.98" }] };
  let now = begin;
  function Written({ error }: { error?: Problem }) {
    const [w, setW] = useState(begin);
    now = w;
    return <WarehouseEditor of={w} set={setW} drop={() => setW({ ...w, steps: [] })} wrong={faults(error)} />;
  }
  const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
  it("takes digits for sizes, and leaves amounts to the server", () => {
    show(<Written />);
    type("Longest side of step 1", "12a");
    expect(now.steps[0].longest).toBe(330);
    type("Longest side of step 1", "450");
    type("Grams of step 1", "900");
    type("Fee of step 1", "2,x");
    expect(now.steps[0]).toMatchObject({ longest: 450, weight: 900, fee: "2,x" });
    type("Longest side of step 1", "");
    expect(now.steps[0].longest).toBeUndefined();
  });
  it("begins another step from the one before, and never leaves none", () => {
    show(<Written />);
    expect(screen.queryByLabelText("Without step 1")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Another step" }));
    expect(now.steps.map((s) => [s.name, s.longest])).toEqual([
      ["letter", 330],
      ["", 330],
    ]);
    fireEvent.click(screen.getByLabelText("Without step 1"));
    expect(now.steps.map((s) => s.name)).toEqual([""]);
  });
  it("says what is wrong below its step", () => {
    show(<Written error={new Problem("x", 422, { "warehouse.steps[0].fee": '"2,x" is not a number' })} />);
    expect(screen.getAllByRole("alert").map((a) => a.textContent)).toEqual(['"2,x" is not a number']);
  });
});

describe("what a rule wants, as it is written", () => {
  let now = toForm(fresh("GBP"), "GBP");
  function Written() {
    const [f, setF] = useState(() => toForm(fresh("GBP"), "GBP"));
    now = f;
    return <Wish form={f} set={(c) => setF({ ...f, ...c })} currency="GBP" wrong={faults(null)} />;
  }
  it("stacks aims, each kind with a figure to begin with", () => {
    show(<Written />);
    fireEvent.click(screen.getAllByRole("button", { name: "and…" })[0]);
    expect(now.aims.map((a) => a.kind)).toEqual(["margin", "profit"]);
    fireEvent.change(screen.getByLabelText("Kind of aim 2"), { target: { value: "markup" } });
    fireEvent.change(screen.getByLabelText("Plus of aim 2"), { target: { value: "1.00" } });
    expect(now.aims[1]).toEqual({ kind: "markup", value: "40%", plus: "1.00" });
    fireEvent.click(screen.getByLabelText("Without aim 1"));
    fireEvent.click(screen.getByLabelText("Without aim 1"));
    expect(screen.getByText("nothing: the market gives the price")).toBeTruthy();
  });
  it("asks by how much only where that means something", () => {
    show(<Written />);
    expect(screen.queryByLabelText("Against whom")).toBeNull();
    fireEvent.change(screen.getByLabelText("Stance"), { target: { value: "below" } });
    expect(screen.getByLabelText("By")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Stance"), { target: { value: "equal" } });
    expect(screen.queryByLabelText("By")).toBeNull();
    expect(toRule(now, true).rule.market).toEqual({ stance: "equal", against: "lowest" });
  });
  it("keeps endings at hand while they are off", () => {
    show(<Written />);
    fireEvent.click(screen.getByLabelText("Only some endings"));
    expect((screen.getByLabelText("Endings") as HTMLInputElement).disabled).toBe(true);
    expect(toRule(now, true).rule.endings).toBeUndefined();
    fireEvent.click(screen.getByLabelText("Only some endings"));
    expect(toRule(now, true).rule.endings?.at).toEqual(["0.49", "0.99"]);
  });
});

describe("what would come of it", () => {
  const one: Schemas["WhatIfAnswer"] = {
    site_id: 2,
    site: "Quaymarket IE",
    currency: "EUR",
    listings: 40,
    worse: 30,
    under_floor: 4,
    at_loss: 0,
    unpriced: 0,
    now: 500000,
    // biome-ignore lint/suspicious/noThenProperty: the API calls it so
    then: 420050,
    sales: 1,
    most: [move(1, { profit_was: 400, profit: -20 })],
  };
  it("says what the month would leave, and each count opens what it counts", () => {
    const onShow = vi.fn();
    show(<WhatIfAnswer x={one} show="furthest" onShow={onShow} />);
    expect(screen.getByText(/The month would leave/).textContent).toBe(
      "The month would leave 4\u202f200.50 EUR, −799.50 EUR against now, 5\u202f000.00 EUR.",
    );
    expect(screen.queryByText("could not be worked out then")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "4 would fall under their floor" }));
    expect(onShow).toHaveBeenCalledWith("floor");
    expect(screen.getByText("−0.20")).toBeTruthy();
    expect(screen.queryByText("Floor then")).toBeNull();
  });
  it("shows the floor of those that would fall under it", () => {
    show(<WhatIfAnswer x={one} show="floor" onShow={() => {}} />);
    const heads = screen.getAllByRole("columnheader").map((h) => h.textContent);
    const cells = within(screen.getAllByRole("row")[1]).getAllByRole("cell");
    expect(cells[heads.indexOf("Floor then")].textContent).toBe("9.00");
  });
  it("says so where nothing is lost, and where nothing is listed", () => {
    // biome-ignore lint/suspicious/noThenProperty: the API calls it so
    const same = { ...one, then: one.now, most: [] };
    show(<WhatIfAnswer x={same} show="loss" onShow={() => {}} />);
    expect(screen.getByText(/would leave what it leaves now/)).toBeTruthy();
    expect(screen.getByText("None.")).toBeTruthy();
  });
  it("puts sites together only with a rate for each", () => {
    const onSite = vi.fn();
    // biome-ignore lint/suspicious/noThenProperty: the API calls it so
    const all = { home: "GBP", now: null, then: null, sites: [one] };
    show(<Everywhere x={all} onSite={onSite} />);
    expect(screen.getByText(/A rate into GBP is missing/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Quaymarket IE" }));
    expect(onSite).toHaveBeenCalledWith(2);
  });
});

describe("an answer on its way", () => {
  it("is said, after a moment, and no longer when it is there", () => {
    const { rerender } = render(<Plain on />);
    expect(screen.getByRole("status").textContent).toBe("working it out…");
    expect(getComputedStyle(screen.getByRole("status")).animation).toContain("400ms");
    rerender(<Plain on={false} />);
    expect(screen.queryByRole("status")).toBeNull();
  });
});

const Plain = ({ on }: { on: boolean }) => (
  <ChakraProvider value={system}>
    <Working on={on} />
  </ChakraProvider>
);
