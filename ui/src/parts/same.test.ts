import { expect, test } from "vitest";
import { same } from "./same";

test.each([
  [{ a: 1, b: 2 }, { b: 2, a: 1 }, true],
  [{ a: 1, b: undefined }, { a: 1 }, true],
  [{ a: [1, 2] }, { a: [2, 1] }, false],
  [{ a: { b: "x" } }, { a: { b: "y" } }, false],
  [[], {}, false],
  [null, undefined, true],
  ["", undefined, false],
])("%j and %j", (a, b, want) => expect(same(a, b)).toBe(want));
