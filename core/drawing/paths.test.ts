import { describe, expect, test } from "vitest";
import { paths, type ShapeName } from "./paths.ts";

// The ways over a path are written down: M to, L to, Z back, R a rectangle, A an arc.
const at = (...values: readonly number[]) => Float64Array.from(values);
const nan = Number.NaN;
function walked(name: ShapeName, shape: object): string {
  const steps: string[] = [];
  const note =
    (letter: string) =>
    (...values: readonly number[]) =>
      void steps.push(`${letter}${values.map((v) => Number(v.toFixed(2))).join(",")}`);
  paths[name](
    { moveTo: note("M"), lineTo: note("L"), closePath: note("Z"), rect: note("R"), arc: note("A") },
    shape as never,
  );
  return steps.join(" ");
}

describe("a line", () => {
  test.each([
    ["goes from value to value", at(1, 2, 3), at(5, 6, 7), "M1,5 L2,6 L3,7"],
    ["is not drawn across a gap", at(1, 2, 3, 4, 5), at(5, nan, 7, 8, nan), "M1,5 M3,7 L4,8"],
    ["begins after a gap", at(1, 2), at(nan, 6), "M2,6"],
    ["of gaps is nothing", at(1, 2), at(nan, nan), ""],
    ["of nothing is nothing", at(), at(), ""],
  ])("%s", (_, x, y, expected) => expect(walked("nubrel-way", { way: { x, y } })).toBe(expected));
});

describe("an area", () => {
  test.each([
    ["goes there along its edge and back along its base", at(1, 2), at(5, 6), at(9, 9), "M1,5 L2,6 L2,9 L1,9 Z"],
    [
      "is closed before a gap and begun after it",
      at(1, 2, 3, 4),
      at(5, nan, 7, 8),
      at(9, 9, 9, 9),
      "M1,5 L1,9 Z M3,7 L4,8 L4,9 L3,9 Z",
    ],
    ["has a gap where its base has one", at(1, 2, 3), at(5, 6, 7), at(9, nan, 9), "M1,5 L1,9 Z M3,7 L3,9 Z"],
    ["of gaps is nothing", at(1), at(nan), at(9), ""],
  ])("%s", (_, x, y, base, expected) => expect(walked("nubrel-ribbon", { ribbon: { x, y, base } })).toBe(expected));
});

test("cells are rectangles; a part of one is none", () =>
  expect(walked("nubrel-cells", { held: { cells: [1, 2, 3, 4, 5, 6, 7, 8, 9] } })).toBe("R1,2,3,4 R5,6,7,8"));
test("dots are circles of their own", () =>
  expect(walked("nubrel-dots", { held: { at: [10, 20, 30, 40], radius: 2 } })).toBe(
    "M12,20 A10,20,2,0,6.28 M32,40 A30,40,2,0,6.28",
  ));
