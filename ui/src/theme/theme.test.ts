import { describe, expect, it } from "vitest";
import { system } from "./index";

// WCAG 2.2, 1.4.3: what is read at body size stands out from its ground by 4.5 to 1.

const grounds = ["ground", "panel", "band", "tint", "warn"];
const texts = ["ink", "quiet", "gain", "loss"];

function luminance(hex: string) {
  const [r, g, b] = [1, 3, 5]
    .map((i) => Number.parseInt(hex.slice(i, i + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

function contrast(one: string, other: string) {
  const [dark, light] = [luminance(one), luminance(other)].sort((a, b) => a - b);
  return (light + 0.05) / (dark + 0.05);
}

function colour(name: string, theme: "base" | "_dark"): string {
  const token = system.tokens.getByName(`colors.${name}`);
  const hex = theme === "base" ? token?.originalValue : token?.extensions.conditions?._dark;
  expect(hex, `${name} in ${theme}`).toMatch(/^#[0-9A-F]{6}$/);
  return hex;
}

describe.each(["base", "_dark"] as const)("the colours of the theme, %s", (theme) => {
  it.each(texts.flatMap((text) => grounds.map((ground) => [text, ground] as const)))(
    "%s can be read on %s",
    (text, ground) => {
      expect(contrast(colour(text, theme), colour(ground, theme))).toBeGreaterThanOrEqual(4.5);
    },
  );
  it("a button's words can be read on it", () => {
    expect(contrast(colour("actionInk", theme), colour("action", theme))).toBeGreaterThanOrEqual(4.5);
  });
});
