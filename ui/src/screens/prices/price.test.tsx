import { ChakraProvider } from "@chakra-ui/react";
import { fireEvent, render, screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "../../api/client";
import { ProfitCurve, range, rows, steps } from "../../parts/curve";
import { plain } from "../../parts/money";
import { figures } from "../../parts/strip";
import { show, showInForm } from "../../parts/testing";
import { Working } from "../../parts/working";
import { system } from "../../theme";
import { type Answer, asked, begin, kept } from "./ask";
import { FeeDrawn, WarehouseDrawn } from "./bands";
import { Moves } from "./moves";
import { Histogram, PreviewPane } from "./preview";
import { fresh, percent, type RuleText, toRule, toText } from "./ruleform";
import { clean, type Written } from "./schedule";
import { WarehouseEditor } from "./warehouse";
import { Everywhere, Answer as WhatIfAnswer } from "./whatifanswer";
import { Wish } from "./wish";

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
    expect(JSON.parse(JSON.stringify(toRule(toText(rule, "GBP"), false)))).toEqual(rule);
  });
  it("holds for all the rest where it is the last, whatever was typed for which", () => {
    expect(toRule({ ...toText(rule, "GBP"), brands: "x" }, true).fits).toBeUndefined();
  });
  it("mends what is easily left out, and nothing else", () => {
    const form = {
      ...toText(rule, "GBP"),
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
    const made = toRule({ ...toText(rule, "GBP"), stance: "ignore", ends: false }, false).rule;
    expect(made.market).toBeUndefined();
    expect(made.endings).toBeUndefined();
  });
  it("begins with figures that the currency has", () => {
    expect(fresh("JPY").rule.keep[0].value).toBe("100");
    expect(toText({ ...fresh("JPY"), rule: { aims: [], keep: [] } }, "JPY")).toMatchObject({
      by: "1",
      every: "100",
      ends: false,
    });
    expect(fresh("GBP").rule.endings?.at).toEqual(["0.49", "0.99"]);
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
    split: { delivery: 240, fees: 410, tax: 450 },
    break_even: 2000,
    floor: 2100,
    live: null,
    charged: 0,
    lines: [
      { kind: "price", name: "item price", amount: 2500, part: "" },
      { kind: "delivery", name: "delivery charged", amount: 200, part: "delivery" },
      { kind: "tax", name: "tax", amount: -450, part: "tax" },
      { kind: "fee", name: "commission", amount: -300, part: "fees" },
      { kind: "fee tax", name: "commission tax", amount: -60, part: "fees" },
      { kind: "allowance", name: "returns", amount: -50, part: "fees" },
      { kind: "cost", name: "landed cost", amount: -1000, part: "cost" },
      { kind: "outbound", name: "outbound", amount: -440, part: "delivery" },
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
  it("are the server's, and make the price", () => {
    const f = figures(answer());
    expect(f).toMatchObject({ outbound: 240, fees: 410, tax: 450, landed: 1000, profit: 400, price: 2500 });
    expect((f.landed ?? 0) + (f.outbound ?? 0) + (f.fees ?? 0) + (f.tax ?? 0) + (f.profit ?? 0)).toBe(2500);
  });
  it("ask nothing of what was left empty", () => {
    expect(asked(begin(0))).toEqual({ site_id: 0, cost: { unit: "10.00" }, lead: "margin", value: "18%" });
    expect(asked(begin(7))).toEqual({ site_id: 0, product_id: 7, lead: "rule" });
    expect(asked(begin(0, 3))).toEqual({ site_id: 0, supplier_product_id: 3, lead: "rule" });
  });
  it("go on with what stood in the address, and begin anew where that is nonsense", () => {
    const again = kept('{"site_id":0,"cost":{"unit":"4.20"},"lead":"price","value":"9.99"}');
    expect(again && asked(again)).toEqual({ site_id: 0, cost: { unit: "4.20" }, lead: "price", value: "9.99" });
    expect(again?.charged).toBe("");
    for (const bad of ["", "{", "null", "3"]) expect(kept(bad)).toBeNull();
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
    const steps = [
      { name: "letter", fits: "up to 330 × 230 × 25 mm, 460 g", fee: "1.98", also: "" },
      { name: "long", fits: "up to 1200 mm", fee: "1.98", also: "and 0.38 per ½ kg over 5000 g" },
    ];
    show(<WarehouseDrawn of={{ name: "warehouse fee", steps }} />);
    expect(screen.getAllByRole("row").map((r) => r.textContent)).toEqual([
      "letterup to 330 × 230 × 25 mm, 460 g1.98",
      "longup to 1200 mm1.98and 0.38 per ½ kg over 5000 g",
    ]);
  });
  it("are drawn as steps that a reader hears as words", () => {
    const bands = [
      { rate: "11% + 0.20", to: "to 20.00", share: 100 },
      { rate: "9.8%", to: "above", share: 89 },
    ];
    const said = "11% and 0.20 up to 20.00, 9.8% above";
    const of = "all of it at the rate it falls in, of the item price";
    show(<FeeDrawn fee={{ name: "sale fee", rate: "", of, bands, said, also: "at least 0.30", changed: true }} />);
    expect(screen.getByRole("img", { name: said })).toBeTruthy();
    expect(screen.getByText(of)).toBeTruthy();
    expect(screen.getByText("at least 0.30")).toBeTruthy();
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
    { kind: "price", name: "item price", amount: 1149, part: "" },
    { kind: "cost", name: "landed cost", amount: -959, part: "cost" },
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
    { from: null, to: -5, count: 3, words: "under −5 %" },
    { from: -5, to: 0, count: 0, words: "−5 to 0 %" },
    { from: 0, to: 5, count: 12, words: "0 to 5 %" },
    { from: 5, to: null, count: 1, words: "5 % and more" },
  ];
  it("draws how many move by how much, or nothing", () => {
    const { unmount } = show(<Histogram bars={bars} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
      "How many prices move by how much: under −5 % 3, −5 to 0 % 0, 0 to 5 % 12, 5 % and more 1",
    );
    unmount();
    show(<Histogram bars={bars.map((b) => ({ ...b, count: 0 }))} />);
    expect(screen.queryByRole("figure")).toBeNull();
  });
  it("says what would become unsellable, loudly", () => {
    const p = {
      currency: "GBP",
      words: "at least 18% margin",
      listings: 20,
      looked: 20,
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
      at_once: 0,
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
  const begin: Written = {
    category: "",
    starts_on: "",
    fees: [],
    warehouse: { name: "warehouse fee", steps: [{ name: "letter", longest: 330, fee: "1.98" }] },
  };
  const draw = (error?: Problem) => showInForm(begin, <WarehouseEditor onDrop={() => {}} />, error);
  const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
  it("takes digits for sizes, and leaves amounts to the server", () => {
    const form = draw();
    type("Longest side of step 1", "12a");
    expect(form.now().warehouse?.steps[0].longest).toBe(330);
    type("Longest side of step 1", "450");
    type("Grams of step 1", "900");
    type("Fee of step 1", "2,x");
    expect(form.now().warehouse?.steps[0]).toMatchObject({ longest: 450, weight: 900, fee: "2,x" });
    type("Longest side of step 1", "");
    expect(form.now().warehouse?.steps[0].longest).toBeUndefined();
  });
  it("begins another step from the one before, and never leaves none", () => {
    const form = draw();
    expect(screen.queryByLabelText("Without step 1")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Another step" }));
    expect(form.now().warehouse?.steps.map((s) => [s.name, s.longest])).toEqual([
      ["letter", 330],
      ["", 330],
    ]);
    fireEvent.click(screen.getByLabelText("Without step 1"));
    expect(form.now().warehouse?.steps.map((s) => s.name)).toEqual([""]);
  });
  it("says what is wrong below its step", () => {
    draw(new Problem("x", 422, { "warehouse.steps[0].fee": '"2,x" is not a number' }));
    expect(screen.getAllByRole("alert").map((a) => a.textContent)).toEqual(['"2,x" is not a number']);
  });
});

describe("what a rule wants, as it is written", () => {
  const draw = () => showInForm<RuleText>(toText(fresh("GBP"), "GBP"), <Wish currency="GBP" />);
  it("stacks aims, each kind with a figure to begin with", () => {
    const form = draw();
    fireEvent.click(screen.getAllByRole("button", { name: "and…" })[0]);
    expect(form.now().aims.map((a) => a.kind)).toEqual(["margin", "profit"]);
    fireEvent.change(screen.getByLabelText("Kind of aim 2"), { target: { value: "markup" } });
    fireEvent.change(screen.getByLabelText("Plus of aim 2"), { target: { value: "1.00" } });
    expect(form.now().aims[1]).toEqual({ kind: "markup", value: "40%", plus: "1.00" });
    fireEvent.click(screen.getByLabelText("Without aim 1"));
    fireEvent.click(screen.getByLabelText("Without aim 1"));
    expect(screen.getByText("nothing: the market gives the price")).toBeTruthy();
  });
  it("asks by how much only where that means something", () => {
    const form = draw();
    expect(screen.queryByLabelText("Against whom")).toBeNull();
    fireEvent.change(screen.getByLabelText("Stance"), { target: { value: "below" } });
    expect(screen.getByLabelText("By")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Stance"), { target: { value: "equal" } });
    expect(screen.queryByLabelText("By")).toBeNull();
    expect(toRule(form.now(), true).rule.market).toEqual({ stance: "equal", against: "lowest" });
  });
  it("keeps endings at hand while they are off", () => {
    const form = draw();
    fireEvent.click(screen.getByLabelText("Only some endings"));
    expect((screen.getByLabelText("Endings") as HTMLInputElement).disabled).toBe(true);
    expect(toRule(form.now(), true).rule.endings).toBeUndefined();
    fireEvent.click(screen.getByLabelText("Only some endings"));
    expect(toRule(form.now(), true).rule.endings?.at).toEqual(["0.49", "0.99"]);
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
