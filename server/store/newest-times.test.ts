import { expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { NewestTimes } from "./newest-times.ts";

test("the newest time of each series is the latest that came, whatever came after it", () => {
  const times = new NewestTimes(() => Number.NEGATIVE_INFINITY);
  times.note(
    batchOf([
      [3, 1000, 1],
      [3, 500, 1],
      [5000, 70, 1],
    ]),
  );
  expect([999, 1000, 1001].map((ms) => times.isAhead(3, ms))).toEqual([false, false, true]);
  expect([70, 71].map((ms) => times.isAhead(5000, ms))).toEqual([false, true]);
  expect(times.isAhead(4, 0)).toBe(true);
});

test("what was there before is asked for once, and holds where what comes is older", () => {
  const asked: number[] = [];
  const times = new NewestTimes((id) => {
    asked.push(id);
    return 1000;
  });
  times.note(batchOf([[7, 600, 1]]));
  expect([600, 1000, 1001].map((ms) => times.isAhead(7, ms))).toEqual([false, false, true]);
  times.note(batchOf([[7, 2000, 1]]));
  expect([2000, 2001].map((ms) => times.isAhead(7, ms))).toEqual([false, true]);
  expect(asked).toEqual([7]);
});
