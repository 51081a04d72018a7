import fc from "fast-check";
import { median } from "simple-statistics";
import { describe, expect, test } from "vitest";
import { medianOf } from "./select.ts";

describe("the median by selection", () => {
  test("is that of simple-statistics, with values that occur often as well (property)", () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.integer({ min: -3, max: 3 }), fc.double({ noNaN: true, min: -1e9, max: 1e9 })), {
          minLength: 1,
          maxLength: 200,
        }),
        (values) => {
          expect(medianOf(Float64Array.from(values), values.length)).toBeCloseTo(median(values), 6);
        },
      ),
    );
  });
  test("of the first numbers alone; what follows stays where it is", () => {
    const values = Float64Array.of(9, 1, 5, 1000, 2000);
    expect(medianOf(values, 3)).toBe(5);
    expect([...values.subarray(3)]).toEqual([1000, 2000]);
    expect(medianOf(values, 0)).toBeNaN();
  });
  test("takes no longer for what is sorted, turned round or all alike: at most thirty passes of a hundred thousand", () => {
    let reads = 0;
    const counted = (values: Float64Array) =>
      new Proxy(values, {
        get: (target, key) => {
          reads++;
          return Reflect.get(target, key);
        },
      });
    for (const make of [(i: number) => i, (i: number) => -i, () => 7]) {
      reads = 0;
      medianOf(counted(Float64Array.from({ length: 100_000 }, (_, i) => make(i))), 100_000);
      expect(reads).toBeLessThan(3_000_000);
    }
  });
});
