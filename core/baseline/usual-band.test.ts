import { describe, expect, test } from "vitest";
import { bandGrain, usualBand } from "./usual-band.ts";
import { UsualLine, usualStepMs } from "./usual-range.ts";

const hour = 3_600_000;
const day = 24 * hour;
const start = Date.UTC(2026, 9, 1);

/** Three weeks that are 100 by day (8 to 20 o'clock) and 20 by night. */
const byHour = (stepMs: number) =>
  new UsualLine(
    Float64Array.from({ length: (21 * day) / stepMs }, (_, i) => {
      const clock = ((i * stepMs) / hour) % 24;
      return clock >= 8 && clock < 20 ? 100 : 20;
    }),
    start,
    stepMs,
    () => 0,
  );

describe("what is usual at the steps of a chart", () => {
  test("over a week it is told by the hour, over a day by the quarter, over hours by five minutes", () => {
    expect(bandGrain(7 * day)).toEqual({ pastStepMs: hour, everyMs: hour });
    expect(bandGrain(day)).toEqual({ pastStepMs: usualStepMs, everyMs: 900_000 });
    expect(bandGrain(2 * hour)).toEqual({ pastStepMs: usualStepMs, everyMs: 300_000 });
  });
  test("by hand: the level of that hour of earlier days, a tenth to each side, and a straight line between", () => {
    const grain = { pastStepMs: hour, everyMs: hour };
    const window = { fromMs: start + 20 * day, stepMs: hour, count: 24 };
    const { low, mid, high } = usualBand(byHour(hour), window, grain);
    // The step from 12 to 13 o'clock is in the middle of the day, that from 3 to 4 in the middle of the night.
    expect(mid[12]).toBeCloseTo(100, 9);
    expect(high[12]).toBeCloseTo(110, 9);
    expect(low[12]).toBeCloseTo(100 / 1.1, 9);
    expect(mid[3]).toBeCloseTo(20, 9);
    // Steps of half an hour around 8 o'clock lie between what is usual in the middles of both hours.
    const halves = usualBand(byHour(hour), { fromMs: start + 20 * day, stepMs: hour / 2, count: 48 }, grain);
    // 7:45 is a quarter of the way from 7:30 (20) to 8:30 (100), 8:15 three quarters.
    expect(halves.mid[15]).toBeCloseTo(40, 9);
    expect(halves.mid[16]).toBeCloseTo(80, 9);
  });
  test("is null where too little past is known", () => {
    const window = { fromMs: start + 3 * day, stepMs: hour, count: 5 };
    expect(usualBand(byHour(hour), window, bandGrain(5 * hour))).toEqual({
      low: [null, null, null, null, null],
      mid: [null, null, null, null, null],
      high: [null, null, null, null, null],
    });
  });
});
