import { describe, expect, test } from "vitest";
import { axisFor } from "../units/axis.ts";
import { type Element, elementsOf } from "./elements.ts";
import { heatLevels } from "./geometry.ts";
import type { Drawn } from "./drawings.ts";
import type { PlotLine, PlotModel } from "./model.ts";

const place = { x: 64, y: 8, width: 400, height: 100, edge: 6 };
const colours = { hairline: "hair", quiet: "quiet", paper: "paper", act: "act" };
const line = (key: string, values: PlotLine["values"], more: Partial<PlotLine> = {}): PlotLine => ({
  key,
  values,
  colour: key,
  width: 1.5,
  raised: false,
  dashed: false,
  ...more,
});
const drawn = (kind: Drawn, lines: readonly PlotLine[], axis = axisFor("By/s", 0, 2500)): readonly Element[] => {
  const model: PlotModel = {
    fromMs: 0,
    toMs: 4 * 3_600_000,
    firstMs: 0,
    stepMs: 3_600_000,
    axis,
    lines,
    ticks: (most) =>
      Array.from({ length: most }, (_, i) => ({ atMs: ((i + 1) / most) * 4 * 3_600_000, text: `0${i}:00` })),
    drawn: kind,
    theme: "day",
  };
  return elementsOf(model, place, colours);
};
const texts = (elements: readonly Element[]) =>
  elements.flatMap((one) => (one.type === "text" ? [one.style.text] : []));
const ways = (elements: readonly Element[]) => elements.flatMap((one) => (one.type === "nubrel-way" ? [one] : []));
const count = (elements: readonly Element[], type: Element["type"]) =>
  elements.filter((one) => one.type === type).length;
const a = line("a", [1, 2, null, 4]);
const b = line("b", [3, 3, 3, 3]);

describe("the scale beside a plot", () => {
  test("has one prefix for all labels, told once at the highest", () => {
    const labels = texts(drawn("lines", [a])).filter((text) => !text.includes(":") && !/[a-z]{3} \d/i.test(text));
    expect(labels).toEqual(["0", "1", "2", "3 kB/s"]);
  });
  test.each(["horizon", "heat"] as const)("is absent where each line has a row of its own: %s", (kind) =>
    expect(texts(drawn(kind, [a, b])).some((text) => text.includes("B/s"))).toBe(false),
  );
  test("labels of moments stay on the canvas: one at the very end is left out, its tick stays", () => {
    const elements = drawn("lines", [a]);
    const moments = elements.filter((one) => one.type === "text" && one.style.align === "center");
    for (const one of moments)
      if (one.type === "text")
        expect(one.x + one.style.text.length * 3.4).toBeLessThanOrEqual(place.x + place.width + place.edge);
    expect(moments.length).toBeGreaterThan(0);
  });
});

describe("lines", () => {
  test("are a stroke each; a raised one is wider and in front, the others faint", () => {
    const [first, second] = ways(drawn("lines", [line("a", [1, 2, 3, 4], { raised: true }), b]));
    expect([first?.style.lineWidth, first?.style.opacity]).toEqual([1.5 + 1.2, 1]);
    expect(second?.style.opacity).toBe(0.3);
    expect(first?.z2).toBeGreaterThan(second?.z2 ?? 0);
  });
  test("an earlier time is dashed and has no band; what a mean hides is a band otherwise", () => {
    const spread = { lows: [0, 1, 2, 3], highs: [2, 3, 4, 5] };
    const elements = drawn("lines", [
      line("a", [1, 2, 3, 4], spread),
      line("b", [1, 2, 3, 4], { ...spread, dashed: true }),
    ]);
    expect(count(elements, "nubrel-ribbon")).toBe(1);
    expect(ways(elements).map(({ style }) => style.lineDash)).toEqual([undefined, [5, 4]]);
  });
  test("while one is raised, the bands of the others are left out", () => {
    const spread = { lows: [0, 0, 0, 0], highs: [9, 9, 9, 9] };
    expect(
      count(
        drawn("lines", [line("a", [1, 2, 3, 4], { ...spread, raised: true }), line("b", [1, 2, 3, 4], spread)]),
        "nubrel-ribbon",
      ),
    ).toBe(1);
  });
  test("a value between gaps is a dot", () => {
    expect(count(drawn("lines", [line("a", [1, null, 3, null])]), "nubrel-dots")).toBe(1);
    expect(count(drawn("lines", [b]), "nubrel-dots")).toBe(0);
  });
  test("a stroke is not filled", () =>
    expect(ways(drawn("lines", [a])).map(({ style }) => style.fill)).toEqual(["none"]));
});

describe("the other kinds", () => {
  test("a stack is an area with an edge in paper for each line, the second on the first", () => {
    const elements = drawn("stacked", [a, b]);
    expect([count(elements, "nubrel-ribbon"), ways(elements).map(({ style }) => style.stroke)]).toEqual([
      2,
      ["paper", "paper"],
    ]);
    const [lower, upper] = elements.flatMap((one) =>
      one.type === "nubrel-ribbon" ? [(one.shape as { ribbon: { y: Float64Array; base: Float64Array } }).ribbon] : [],
    );
    expect([...(upper?.base ?? [])]).toEqual([...(lower?.y ?? [])]);
  });
  test("bars are cells in each line's colour", () =>
    expect(
      drawn("bars", [a, b]).flatMap((one) =>
        one.type === "nubrel-cells" && ["a", "b"].includes(one.style.fill ?? "") ? [one.style.fill] : [],
      ),
    ).toEqual(["a", "b"]));
  test("a horizon strip is three bands a line, the higher the stronger", () => {
    const bands = drawn("horizon", [a, b]).flatMap((one) =>
      one.type === "nubrel-cells" && one.style.fill === "a" ? [one.style.opacity] : [],
    );
    expect(bands).toEqual([0.3, 0.45, 0.75]);
  });
  test("a heat map is one colour in as many strengths as there are levels, growing", () => {
    const strengths = drawn("heat", [a, b]).flatMap((one) =>
      one.type === "nubrel-cells" && one.style.fill === "act" ? [one.style.opacity as number] : [],
    );
    expect(strengths).toHaveLength(heatLevels);
    expect([...strengths].sort((x, y) => x - y)).toEqual(strengths);
  });
  test("nothing to draw is an empty plot with its scales", () => expect(ways(drawn("lines", []))).toEqual([]));
});
