import { describe, expect, test } from "vitest";
import { axisFor } from "../units/axis.ts";
import { bars, heat, heatLevels, heights, horizon, lonely, middles, stacked } from "./geometry.ts";
import type { PlotModel } from "./model.ts";

const place = { x: 10, y: 20, width: 100, height: 50, edge: 6 };
const model: PlotModel = {
  fromMs: 0,
  toMs: 1000,
  firstMs: 0,
  stepMs: 250,
  axis: axisFor("1", 0, 10),
  lines: [],
  ticks: () => [],
  drawn: "lines",
  theme: "day",
};

test("a value stands in the middle of its step, at its share of the axis; a gap has no height", () => {
  expect([...middles(model, 4, place)]).toEqual([22.5, 47.5, 72.5, 97.5]);
  expect([...heights([0, 10, null, 5], model.axis, place)]).toEqual([70, 20, Number.NaN, 45]);
});

describe("a stack", () => {
  test("rests on the sum of those below: its top edge is the total", () => {
    expect(
      stacked([
        [1, 2],
        [3, 4],
        [5, 6],
      ]).map(({ base, top }) => [base, top]),
    ).toEqual([
      [
        [0, 0],
        [1, 2],
      ],
      [
        [1, 2],
        [4, 6],
      ],
      [
        [4, 6],
        [9, 12],
      ],
    ]);
  });
  test("a gap in one line adds nothing, a gap in all is a gap", () =>
    expect(
      stacked([
        [1, null, null],
        [2, 2, null],
      ]).map(({ top }) => top),
    ).toEqual([
      [1, 0, null],
      [3, 2, null],
    ]));
  test("of nothing is nothing", () => expect(stacked([])).toEqual([]));
});

test("a value between two gaps is told as a dot", () => {
  const way = { x: Float64Array.of(1, 2, 3, 4, 5), y: Float64Array.of(9, Number.NaN, 8, Number.NaN, Number.NaN) };
  expect(lonely(way)).toEqual([1, 9, 3, 8]);
});

test("bars stand a step wide on their base, with a breath between them; nothing has no bar", () => {
  expect(bars([0, 0, 0, 0], [10, null, 0, 5], model, place)).toEqual([10, 20, 24, 50, 85, 45, 24, 25]);
});

test("a horizon strip is cut into three bands, the higher only where the value reaches; the second line stands above the first", () => {
  const axis = axisFor("1", 0, 10);
  const [low, middle, high] = horizon([axis.max / 6, null, axis.max, axis.max / 2], 0, 2, { ...model, axis }, place);
  const heightsOf = (cells: readonly number[] | undefined) =>
    cells?.filter((_, i) => i % 4 === 3).map((height) => Math.round(height * 1e6) / 1e6);
  expect(heightsOf(low)).toEqual([11, 22, 22]);
  expect(heightsOf(middle)).toEqual([22, 11]);
  expect(heightsOf(high)).toEqual([22]);
  expect(low?.[1]).toBe(59);
  expect(horizon([axis.max], 1, 2, { ...model, axis }, place)[0]?.[1]).toBe(23);
});

describe("a heat map", () => {
  test("has the first line at the bottom, the strongest cell in the highest level, nothing for nothing", () => {
    const levels = heat(
      [
        [4, 0, null, 1],
        [0, 0, 0, 0.01],
      ],
      model,
      place,
    );
    expect(levels).toHaveLength(heatLevels);
    expect(levels[heatLevels - 1]?.slice(0, 2)).toEqual([10, 45]);
    expect(levels.flat().length).toBe(3 * 4);
    expect(levels[0]?.slice(0, 2)).toEqual([85, 20]);
    expect(levels[Math.floor(Math.sqrt(1 / 4) * heatLevels)]).toHaveLength(4);
  });
  test("of zeros is empty", () => expect(heat([[0, null]], model, place).flat()).toEqual([]));
});
