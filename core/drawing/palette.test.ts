import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { pageColours, palette, type Theme } from "./palette.ts";
import {
  ciede2000,
  contrast,
  type Deficiency,
  labFromRgb,
  type Lab,
  rgbFromHex,
  simulate,
} from "../../web/src/charts/testing/colour-distance.ts";

describe("the measures themselves", () => {
  // Sharma, Wu & Dalal 2005, table 1: pairs 1, 7, 9, 13, 17, 25 and 31.
  test.each([
    [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
    [[50, 0, 0], [50, -1, 2], 2.3669],
    [[50, 2.49, -0.001], [50, -2.49, 0.0009], 7.1792],
    [[50, -0.001, 2.49], [50, 0.0009, -2.49], 4.8045],
    [[50, 2.5, 0], [73, 25, -18], 27.1492],
    [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
    [[35.0831, -44.1164, 3.7933], [35.0232, -40.0716, 1.5901], 1.8645],
  ] as unknown as readonly (readonly [Lab, Lab, number])[])("CIEDE2000 of %j and %j is %d", (a, b, expected) => {
    expect(ciede2000(a, b)).toBeCloseTo(expected, 4);
    expect(ciede2000(b, a)).toBeCloseTo(expected, 4);
  });
  test("contrast of black on white is 21, of #777777 on white 4.48 (WCAG 2.2; the second a known borderline, from memory)", () => {
    expect(contrast([0, 0, 0], [1, 1, 1])).toBeCloseTo(21, 10);
    expect(contrast(rgbFromHex("#777777"), [1, 1, 1])).toBeCloseTo(4.48, 2);
  });
  test("simulated deficiencies leave greys as they are (rows of the matrices add up to 1)", () => {
    for (const kind of ["protanopia", "deuteranopia", "tritanopia"] as const)
      for (const channel of simulate([0.5, 0.5, 0.5], kind)) expect(channel).toBeCloseTo(0.5, 3);
  });
});

const styles = readFileSync(new URL("../../web/src/styles.css", import.meta.url), "utf8");

describe.each(["day", "night"] as const)("by %s", (theme: Theme) => {
  const page = rgbFromHex(pageColours[theme].paper);
  test.each(palette[theme])("line colour %s stands out from the page, 3:1 (WCAG 2.2 §1.4.11)", (colour) => {
    expect(contrast(rgbFromHex(colour), page)).toBeGreaterThanOrEqual(3);
  });
  test.each(["ink", "quiet", "urgent", "notice"] as const)(
    "text in %s is readable, 4.5:1 (WCAG 2.2 §1.4.3)",
    (name) => {
      expect(contrast(rgbFromHex(pageColours[theme][name]), page)).toBeGreaterThanOrEqual(4.5);
    },
  );
  test.each([
    [undefined, 12],
    ["deuteranopia", 12],
    ["protanopia", 12],
    ["tritanopia", 10],
  ] as readonly (readonly [Deficiency | undefined, number])[])(
    "every two line colours stay apart, seen with %s by a CIEDE2000 of %d or more",
    (deficiency, least) => {
      const seen = palette[theme].map((hex) =>
        labFromRgb(deficiency ? simulate(rgbFromHex(hex), deficiency) : rgbFromHex(hex)),
      );
      seen.forEach((a, i) => {
        for (const b of seen.slice(i + 1)) expect(ciede2000(a, b)).toBeGreaterThanOrEqual(least);
      });
    },
  );
  test("the canvas has the colours of the style sheet", () => {
    const block = styles.split(theme === "day" ? ":root {" : ':root[data-theme="night"] {')[1]?.split("}")[0] ?? "";
    for (const [name, colour] of Object.entries(pageColours[theme])) expect(block).toContain(`--${name}: ${colour};`);
  });
});
