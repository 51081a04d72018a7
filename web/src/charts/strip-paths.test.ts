import fc from "fast-check";
import { expect, test } from "vitest";
import { bandPaths, stripScale, stripWidth } from "./strip-paths.ts";

const height = 18;

/** How high a path stands at a place, by the commands of SVG 2, 9.3 that are used: M, H, V and Z. */
function heightAt(path: string, at: number): number {
  let [x, y] = [0, height];
  let found = height;
  for (const [, command, first, second] of path.matchAll(/([MHVZ])([\d.]*) ?([\d.]*)/g)) {
    if (command === "M") [x, y] = [Number(first), Number(second)];
    if (command === "V") y = Number(first);
    if (command === "H") {
      if (x <= at && at < Number(first)) found = y;
      x = Number(first);
    }
  }
  return height - found;
}

test("each value fills its bands from the bottom on, and a gap stays empty", () => {
  const paths = bandPaths([0, 30, 60, 90, null, 45], 0, 1, { fromMs: 0, toMs: 6 }, { least: 0, most: 90 }, height);
  const filled = (band: number) =>
    [0, 1, 2, 3, 4, 5].map((i) => heightAt(paths[band] as string, ((i + 0.5) / 6) * stripWidth));
  expect(filled(0)).toEqual([0, 18, 18, 18, 0, 18]);
  expect(filled(1)).toEqual([0, 0, 18, 18, 0, 9]);
  expect(filled(2)).toEqual([0, 0, 0, 18, 0, 0]);
});

test("a line that does not move is one step, and a band that nothing reaches is none", () => {
  const flat = new Array<number>(120).fill(10);
  const paths = bandPaths(flat, 0, 1, { fromMs: 0, toMs: 120 }, { least: 0, most: 90 }, height);
  expect(paths).toEqual(["M0 18V12H200V18Z", "", ""]);
});

test("whatever the values, every place is as high as its value says, within what is rounded", () => {
  const value = fc.option(fc.double({ min: -20, max: 120, noNaN: true }));
  fc.assert(
    fc.property(fc.array(value, { minLength: 1, maxLength: 40 }), (values) => {
      const span = { fromMs: 0, toMs: values.length };
      const paths = bandPaths(values, 0, 1, span, { least: 0, most: 90 }, height);
      values.forEach((one, i) => {
        const total = paths.reduce((sum, path) => sum + heightAt(path, ((i + 0.5) / values.length) * stripWidth), 0);
        const wanted = one === null ? 0 : (Math.max(0, Math.min(90, one)) / 30) * height;
        expect(Math.abs(total - wanted)).toBeLessThanOrEqual(0.16);
      });
    }),
  );
});

test.each([
  { values: [80, 82, 81], most: 100, low: true },
  { values: [2, 80, 81], most: 100, low: false },
  { values: [null, null], most: 100, low: false },
])("a line that would be a block is shown around its own values: $values", ({ values, most, low }) => {
  const { least, most: highest } = stripScale(values, most);
  expect(least > 0).toBe(low);
  expect(highest <= most).toBe(true);
});
