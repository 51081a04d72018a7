import fc from "fast-check";
import { expect, test } from "vitest";
import type { Column } from "../series/batch.ts";
import { estimated } from "./estimate.ts";
import { emptySteps, grown, integrated, missingShare, totalWattHours } from "./energy-steps.ts";
import { sharedByGuests } from "./guests-share.ts";

const minute = 60_000;
const hour = 60 * minute;
/** Readings that come when they come, with values between 0 and 1 kW. */
const readings = fc
  .array(
    fc.record({
      after: fc.integer({ min: 1, max: 30 * minute }),
      value: fc.double({ min: 0, max: 1000, noNaN: true }),
    }),
    {
      minLength: 2,
      maxLength: 60,
    },
  )
  .map((all): Column => {
    let at = 0;
    return {
      timeMs: Float64Array.from(all, ({ after }) => (at += after)),
      value: Float64Array.from(all, ({ value }) => value),
    };
  });
const cuts = fc.uniqueArray(fc.integer({ min: 0, max: 32 * hour }), { minLength: 2, maxLength: 20 });
const edgesOf = (all: readonly number[]) => Float64Array.from(all).sort();

test("wherever a window is cut, its stretches have the energy and the known time of the whole (property)", () =>
  fc.assert(
    fc.property(readings, cuts, (power, marks) => {
      const edges = edgesOf(marks);
      const whole = Float64Array.of(edges[0] as number, edges.at(-1) as number);
      const [cut, once] = [integrated(power, edges), integrated(power, whole)];
      expect(totalWattHours(cut)).toBeCloseTo(totalWattHours(once), 6);
      expect(missingShare(cut)).toBeCloseTo(missingShare(once), 9);
    }),
  ));

test("energy lies between what the least and the most power would have given in the known time (property)", () =>
  fc.assert(
    fc.property(readings, (power) => {
      const edges = Float64Array.of(0, 40 * hour);
      const { wattHours, knownMs } = integrated(power, edges);
      const hours = (knownMs[0] as number) / hour;
      const [least, most] = [Math.min(...power.value), Math.max(...power.value)];
      expect(wattHours[0]).toBeGreaterThanOrEqual(least * hours - 1e-6);
      expect(wattHours[0]).toBeLessThanOrEqual(most * hours + 1e-6);
    }),
  ));

test("twice the power is twice the energy, and two meters added are the sum (property: the integral is linear)", () =>
  fc.assert(
    fc.property(readings, fc.double({ min: 0, max: 5, noNaN: true }), (power, factor) => {
      const edges = Float64Array.of(0, 3 * hour, 40 * hour);
      const times = { ...power, value: power.value.map((v) => v * factor) };
      const [one, other] = [integrated(power, edges), integrated(times, edges)];
      for (const [k, v] of one.wattHours.entries()) expect(other.wattHours[k]).toBeCloseTo(v * factor, 6);
    }),
  ));

test("a counter's stretches add up to what it grew, whatever its restarts (property)", () =>
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: -1, max: 100_000 }), { minLength: 2, maxLength: 40 }),
      cuts,
      (steps, marks) => {
        // −1 is a restart at 0.
        let [joules, expected] = [0, 0];
        const value = steps.map((step) => {
          if (step < 0) joules = 0;
          else {
            joules += step;
            expected += step;
          }
          return joules;
        });
        const timeMs = Float64Array.from(steps, (_, i) => (i + 1) * 20 * minute);
        const counter = { timeMs, value: Float64Array.from(value) };
        const all = Float64Array.of(0, ...edgesOf(marks.filter((mark) => mark > 0)), 40 * hour);
        const first = value[0] as number;
        expect(totalWattHours(grown(counter, all)) * 3600).toBeCloseTo(expected - first, 4);
      },
    ),
  ));

test("a wrapping counter counts no less than nothing, and nothing over a silence (property)", () =>
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 200 }), fc.integer({ min: 0, max: 900 }), (watts, start) => {
      const wrap = 10_000;
      const seconds = Array.from({ length: 200 }, (_, i) => i * 5 + (i >= 100 ? 7200 : 0));
      const counter = {
        timeMs: Float64Array.from(seconds, (s) => s * 1000),
        value: Float64Array.from(seconds, (s) => (start + watts * s) % wrap),
      };
      const { wattHours, knownMs } = grown(counter, Float64Array.of(0, 12 * hour), wrap, 5000);
      // 198 stretches of five seconds are known; the silence between them is not.
      expect(knownMs[0]).toBe(198 * 5000);
      expect(wattHours[0]).toBeCloseTo((watts * 198 * 5) / 3600, 3);
    }),
  ));

test("guests together never have more than their host drew above idle (property)", () =>
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0, max: 7200, noNaN: true }), { minLength: 1, maxLength: 6 }),
      fc.double({ min: 0, max: 14_400, noNaN: true }),
      fc.double({ min: 0, max: 300, noNaN: true }),
      fc.double({ min: 0, max: 200, noNaN: true }),
      (seconds, busy, wattHours, idle) => {
        const host = {
          ...emptySteps(Float64Array.of(0, hour)),
          wattHours: Float64Array.of(wattHours),
          knownMs: Float64Array.of(hour),
        };
        const shared = sharedByGuests(
          host,
          [busy],
          seconds.map((one, i) => ({ guest: `g${i}`, seconds: [one] })),
          idle,
        );
        const sum = shared.reduce((all, { steps }) => all + totalWattHours(steps), 0);
        expect(sum).toBeLessThanOrEqual(Math.max(0, wattHours - idle) + 1e-9);
        for (const { steps } of shared) expect(steps.wattHours[0]).toBeGreaterThanOrEqual(0);
      },
    ),
  ));

test("an estimate lies between idle and full (property)", () =>
  fc.assert(
    fc.property(
      fc.double({ min: 0, max: 3, noNaN: true }),
      fc.integer({ min: 0, max: 100 }),
      fc.integer({ min: 0, max: 400 }),
      (busy, idle, more) => {
        const [wattHours] = estimated([busy], Float64Array.of(0, hour), {
          idleWatts: idle,
          fullWatts: idle + more,
        }).wattHours;
        expect(wattHours).toBeGreaterThanOrEqual(idle);
        expect(wattHours).toBeLessThanOrEqual(idle + more + 1e-9);
      },
    ),
  ));
