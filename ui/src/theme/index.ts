import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";
import { field, input, nativeSelect, tabs } from "./recipes";

// The colours of paper and ink, in a light and a dark theme. Components name these tokens
// and never a colour.
const pair = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

const config = defineConfig({
  globalCss: {
    "html, body": { bg: "ground", color: "ink", fontFamily: "body", fontSize: "13.5px", lineHeight: "1.4" },
    "html, body, #root": { height: "100%" },
    body: { overflow: "hidden" },
    // The browser's own parts take the same family of colours.
    html: { colorScheme: "light", scrollbarColor: "{colors.hair} transparent", scrollbarWidth: "thin" },
    "html.dark": { colorScheme: "dark" },
    "input[type=range]": { accentColor: "{colors.action}" },
    "input[type=checkbox]": { accentColor: "{colors.ink}", width: "14px", height: "14px", verticalAlign: "-2px" },
    "*:focus-visible": { outline: "2px solid", outlineColor: "focus", outlineOffset: "1px" },
    "::selection": { bg: "tint" },
  },
  theme: {
    recipes: { input },
    slotRecipes: { field, nativeSelect, tabs },
    keyframes: { appear: { from: { opacity: 0 }, to: { opacity: 1 } } },
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', monospace" },
      },
    },
    semanticTokens: {
      shadows: { lifted: pair("0 6px 18px rgb(29 39 51 / 0.16)", "0 6px 18px rgb(0 0 0 / 0.5)") },
      colors: {
        ground: pair("#F6F3EC", "#171C23"),
        panel: pair("#FCFAF5", "#1E252E"),
        band: pair("#EFEBDF", "#252D37"),
        hair: pair("#D9D2C3", "#38414C"),
        ink: pair("#1D2733", "#ECE7DB"),
        quiet: pair("#5C6470", "#A9AFB6"),
        action: pair("#2F6B5E", "#3F8A79"),
        actionInk: pair("#FFFFFF", "#0F1418"),
        gain: pair("#2F6B5E", "#6CBFA9"),
        loss: pair("#A8491F", "#EA976F"),
        focus: pair("#4A7FA5", "#7FB2D6"),
        tint: pair("#DDE8E2", "#2A3F3A"),
        warn: pair("#F4E3D6", "#45301F"),
        strip: {
          cost: pair("#57606B", "#8C95A0"),
          delivery: pair("#4A7FA5", "#7FB2D6"),
          fees: pair("#C9A13B", "#DDBB62"),
          tax: pair("#6C5B8E", "#A797CB"),
          left: pair("#2F6B5E", "#4FA48F"),
          loss: pair("#B4532A", "#EA976F"),
          ground: pair("#F6F3EC", "#171C23"),
        },
      },
    },
  },
});

// Chakra's measures and reset hold; how its parts look is ours alone.
const { recipes: _, slotRecipes: __, ...measures } = defaultConfig.theme ?? {};
export const system = createSystem({ ...defaultConfig, theme: measures }, config);
