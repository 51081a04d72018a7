import { describe, expect, test } from "vitest";
import { gaussian, seeded } from "../testing/random.ts";
import { zoneOffsets } from "../time/zone-offsets.ts";
import { usualStepMs, UsualLine, usualWindowMs } from "./usual-range.ts";

const minute = 60_000;
const day = 86_400_000;
const days = 60;
/** Two months across the change of clock of 29 March 2026, in a zone that has it. */
const start = Date.UTC(2026, 1, 1);
const offset = zoneOffsets("Europe/Berlin");
const steps = (days * day) / usualStepMs;

/**
 * Noise by the minute around a season of the day, lognormal 0.3 and correlated over ten minutes, in means of five
 * minutes. `change` makes something of a minute's value.
 */
function noisy(
  seed: number,
  change: (value: number, index: number, clockMinute: number) => number = (value) => value,
): Float64Array {
  const random = seeded(seed);
  const correlated = Math.exp(-1 / 10);
  let state = gaussian(random);
  return Float64Array.from({ length: steps }, (_, step) => {
    let sum = 0;
    for (let k = 0; k < 5; k++) {
      const i = step * 5 + k;
      const local = start + i * minute + offset(start + i * minute);
      state = correlated * state + Math.sqrt(1 - correlated ** 2) * gaussian(random);
      sum += change(
        (10 + 6 * Math.sin((((local / 3_600_000) % 24) - 8) * (Math.PI / 12))) * Math.exp(0.3 * state),
        i,
        Math.floor(local / minute) % 1440,
      );
    }
    return sum / 5;
  });
}

/** The days after the start, with fractions, at which more than four deviations begin. */
function raises(values: Float64Array): readonly number[] {
  const line = new UsualLine(values, start, usualStepMs, offset);
  const found: number[] = [];
  let isRaised = false;
  for (let i = usualWindowMs / usualStepMs; i <= steps; i++) {
    const endMs = start + i * usualStepMs;
    const now = line.deviations(line.meanBefore(endMs), endMs) > 4;
    if (now && !isRaised) found.push((endMs - start) / day);
    isRaised = now;
  }
  return found;
}

describe("what is usual", () => {
  test.each([1, 2, 3, 4, 5, 6])("sixty days of noise raise at most twice (seed %d)", (seed) =>
    expect(raises(noisy(seed)).length).toBeLessThanOrEqual(2),
  );
  test("a job at the same clock time every night is usual from the third week, also after the clocks were changed (seed 11)", () => {
    const nightly = raises(noisy(11, (value, _, clock) => (clock >= 120 && clock < 140 ? value * 8 : value)));
    expect(nightly.filter((at) => at > 14).length).toBeLessThanOrEqual(2); // of 46 nights
  });
  test("three times the usual for an hour is found in forty of forty (seeds 100 to 139)", () => {
    for (let seed = 0; seed < 40; seed++) {
      const begins = (30 + ((seed * 7) % 29)) * 1440 + ((seed * 97) % 1440);
      const found = raises(noisy(100 + seed, (value, i) => (i >= begins && i < begins + 60 ? value * 3 : value)));
      expect(
        found.some((at) => at * 1440 >= begins && at * 1440 <= begins + 100),
        `seed ${seed}`,
      ).toBe(true);
    }
  }, 120_000);
  test("by hand: a constant line with a tenth as its spread; too short a past says nothing; a weekday of its own is known by three weeks", () => {
    const constant = new UsualLine(new Float64Array((20 * day) / usualStepMs).fill(50), start, usualStepMs, () => 0);
    expect(constant.at(start + 19 * day)).toEqual({
      mid: expect.closeTo(50, 9),
      low: expect.closeTo(50 / 1.1, 9),
      high: expect.closeTo(55, 9),
      days: 18,
    });
    expect(constant.at(start + 5 * day)).toBeUndefined();
    expect(constant.deviations(100, start + 5 * day)).toBeNaN();
    const sundays = new UsualLine(
      Float64Array.from({ length: (28 * day) / usualStepMs }, (_, i) =>
        Math.floor((i * usualStepMs) / day) % 7 === 0 ? 200 : 50,
      ),
      start,
      usualStepMs,
      () => 0,
    );
    expect(sundays.at(start + 21.5 * day)?.mid).toBeCloseTo(200, 6);
    expect(sundays.at(start + 22.5 * day)?.mid).toBeCloseTo(50, 6);
  });
  test("by hand: the first question in an hour is answered as the ones after it", () => {
    const hours = () =>
      new UsualLine(
        Float64Array.from({ length: (21 * day) / 3_600_000 }, (_, i) => (i % 24 >= 8 && i % 24 < 20 ? 100 : 20)),
        start,
        3_600_000,
        () => 0,
      );
    for (let hour = 1; hour <= 24; hour++) {
      const at = start + 20 * day + hour * 3_600_000;
      const level = (hour - 1) % 24 >= 8 && (hour - 1) % 24 < 20 ? 100 : 20;
      const line = hours();
      expect(line.at(at)?.mid, `first, ${hour} o'clock`).toBeCloseTo(level, 9);
      expect(line.at(at)?.mid, `again, ${hour} o'clock`).toBeCloseTo(level, 9);
    }
  });
  test("after a burst an idle line is at 0 again, with nothing left of what was added up", () => {
    const values = new Float64Array((20 * day) / usualStepMs);
    values.fill(0.1, 0, 3);
    for (const [i, v] of [0.3, 1e9 / 3, 0.7].entries()) values[6 * 288 + i] = v;
    const idle = new UsualLine(values, start, usualStepMs, () => 0);
    expect(idle.meanBefore(start + 10 * day)).toBe(0);
    expect(idle.at(start + 19.5 * day)?.mid).toBe(0);
  });
  test("a mean of forty minutes is known where half of them are; gaps and infinities are left out (hand-worked)", () => {
    const some = new UsualLine(
      Float64Array.of(1, Number.NaN, 3, Number.POSITIVE_INFINITY, 5, 7, Number.NaN, Number.NaN, Number.NaN),
      start,
      usualStepMs,
      () => 0,
    );
    expect(some.meanBefore(start + 8 * usualStepMs)).toBe(4);
    expect(some.meanBefore(start + 9 * usualStepMs)).toBeNaN();
    expect(some.meanBefore(start + 7 * usualStepMs)).toBeNaN();
  });
  test("a line that is mostly 0 has a spread of its own", () => {
    const idle = new UsualLine(
      Float64Array.from({ length: (20 * day) / usualStepMs }, (_, i) => (i % 288 < 20 ? 100 : 0)),
      start,
      usualStepMs,
      () => 0,
    );
    expect(idle.deviations(1, start + 19.5 * day)).toBeLessThan(1);
    expect(idle.deviations(100, start + 19.5 * day)).toBeGreaterThan(4);
  });
});

describe("what is now this, now that", () => {
  const hours = 40 * 24;
  const begin = Date.UTC(2026, 9, 5);
  const end = begin + hours * 3_600_000;
  /** Every seventh hour at nine, else at 46: at each clock time on every seventh day. */
  const mixed = Float64Array.from({ length: hours }, (_, h) => ((h * 11) % 168 < 24 ? 9 : 46) + 0.1 * Math.sin(h));
  const line = new UsualLine(mixed, begin, 3_600_000, () => 0);
  test("is usual at both, however far that is from the middle", () => {
    expect(Math.abs(line.deviations(9, end))).toBeGreaterThan(6);
    expect(line.isSeen(9, end)).toBe(true);
  });
  test("and unusual where it has never been", () => {
    expect(line.isSeen(2, end)).toBe(false);
    expect(line.isSeen(90, end)).toBe(false);
  });
});
