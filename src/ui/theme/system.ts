import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

/** A colour for each theme; both are designed, neither is the other inverted. */
const pair = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

const config = defineConfig({
  globalCss: {
    html: { colorPalette: "accent", scrollbarGutter: "stable" },
    body: { bg: "paper", color: "ink", fontFamily: "body", fontSize: "14px", lineHeight: "20px", fontVariantNumeric: "tabular-nums" },
    "::selection": { bg: "accentWash" },
    ":focus-visible": { outline: "2px solid var(--chakra-colors-accent-solid)", outlineOffset: "2px" },
    "@media (prefers-reduced-motion: reduce)": { "& *": { transitionDuration: "0s !important", animationDuration: "0s !important" } },
  },
  theme: {
    // Keyframes hold only here: within a component's style they are not found.
    keyframes: { underway: { from: { transform: "scaleX(0)" }, to: { transform: "scaleX(0.9)" } } },
    tokens: {
      fonts: {
        body: { value: "'Archivo Variable', system-ui, sans-serif" },
        heading: { value: "'Archivo Variable', system-ui, sans-serif" },
        mono: { value: "'Archivo Variable', system-ui, sans-serif" },
      },
    },
    semanticTokens: {
      colors: {
        paper: pair("#faf8f2", "#151619"),
        raised: pair("#fffefb", "#1d1f23"),
        wash: pair("#f1eee5", "#202226"),
        ink: pair("#191815", "#ece8de"),
        quiet: pair("#65625a", "#a5a199"),
        hairline: pair("#dcd8cc", "#33353a"),
        tick: pair("#8f8b80", "#77756f"),
        accentWash: pair("#e7e9fb", "#262a48"),
        doubt: pair("#8f5300", "#e3a34a"),
        doubtWash: pair("#f8ecd6", "#35290f"),
        accent: {
          solid: pair("#2433c9", "#93a0ff"),
          contrast: pair("#ffffff", "#10112a"),
          fg: pair("#2433c9", "#a3aeff"),
          muted: pair("#c9cdf5", "#3a4076"),
          subtle: pair("#e7e9fb", "#262a48"),
          emphasized: pair("#aab0ee", "#4b5294"),
          focusRing: pair("#2433c9", "#93a0ff"),
        },
        // Okabe and Ito's hues, each brought to 3:1 against the ground of its theme; the accent and doubt are not among them.
        seriesBlue: pair("#0072b2", "#56b4e9"),
        seriesGreen: pair("#00795a", "#18b58a"),
        seriesRose: pair("#b0578c", "#d68fb8"),
        bg: { DEFAULT: pair("#faf8f2", "#151619"), panel: pair("#fffefb", "#1d1f23"), subtle: pair("#f1eee5", "#202226"), muted: pair("#f1eee5", "#202226") },
        fg: { DEFAULT: pair("#191815", "#ece8de"), muted: pair("#65625a", "#a5a199"), subtle: pair("#65625a", "#a5a199"), error: pair("#8f5300", "#e3a34a") },
        border: { DEFAULT: pair("#dcd8cc", "#33353a"), emphasized: pair("#8f8b80", "#77756f") },
      },
      radii: { l1: { value: "2px" }, l2: { value: "3px" }, l3: { value: "4px" } },
    },
    textStyles: {
      /** Dense numbers: the same family, condensed, tabular. */
      figure: { value: { fontStretch: "78%", fontVariantNumeric: "tabular-nums", letterSpacing: "0.005em" } },
      figureStrong: { value: { fontStretch: "82%", fontVariantNumeric: "tabular-nums", fontWeight: "600", fontSize: "17px", lineHeight: "22px" } },
      title: { value: { fontSize: "20px", lineHeight: "28px", fontWeight: "600", letterSpacing: "-0.01em" } },
      small: { value: { fontSize: "12.5px", lineHeight: "17px", fontStretch: "84%" } },
    },
  },
});

export const system = createSystem(defaultConfig, config);
