import { describe, expect, test } from "vitest";
import { seeded } from "../testing/random.ts";
import { habitsOf } from "./habits.ts";
import { type Job, type LimitLine, overlapOf } from "./overlap.ts";
import { overlapWords } from "./words.ts";

const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;
const start = Date.UTC(2026, 10, 23);
const at = (clock: string, days = 0) =>
  start + days * day + Number(clock.slice(0, 2)) * hour + Number(clock.slice(3)) * minute;
const job = (name: string, from: string, to: string, days = 0): Job => ({
  ...{ name, machine: "vault", fromMs: at(from, days), toMs: at(to, days) },
});
/** Disks that are in use by `base`, and by so much more while each job runs; never beyond all of it. */
function disks(jobs: readonly (readonly [Job, number])[], base = 0.03, days = 1, noise = () => 0): LimitLine {
  const stepMs = 5 * minute;
  const values = Float64Array.from({ length: (days * day) / stepMs }, (_, i) => {
    const ms = start + i * stepMs;
    const takes = jobs.reduce(
      (sum, [{ fromMs, toMs }, share]) => sum + (ms >= fromMs && ms < toMs ? share : 0),
      base + noise(),
    );
    return Math.min(1, Math.max(0, takes));
  });
  return { machine: "vault", words: "disks", fromMs: start, stepMs, values };
}
const copy = job("archive copy", "02:10", "03:05");
const scan = job("integrity scan", "02:20", "03:40");

describe("two jobs that overlap", () => {
  test("the nearest start at which they no longer meet is named, with the use before and after", () => {
    const found = overlapOf(
      copy,
      scan,
      disks([
        [copy, 0.4],
        [scan, 0.56],
      ]),
    );
    // The scan begins when the copy has ended, in steps of a quarter of an hour: at 03:05 it is 45 min later.
    expect(found).toMatchObject({ moves: "second", shiftMinutes: 45, highestNow: 99, highestThen: 59 });
    expect(found).toMatchObject({ fromMs: at("02:20"), toMs: at("03:05") });
    const clock = (ms: number) => new Date(ms).toISOString().slice(11, 16);
    expect(overlapWords(found as NonNullable<typeof found>, clock)).toBe(
      "vault: archive copy and integrity scan overlap from 02:20 to 03:05, with the disks at 99 %. Begun 45 min later, at 03:05, integrity scan would leave them at 59 % at the most.",
    );
  });

  test("what stands in the way at the next start is minded", () => {
    const mirror = job("mirror", "03:45", "06:00");
    const line = disks([
      [copy, 0.4],
      [scan, 0.5],
      [mirror, 0.35],
    ]);
    const found = overlapOf(copy, scan, line);
    // The scan would run into the mirror: the copy goes before it.
    expect(found).toMatchObject({ moves: "first", shiftMinutes: -45, highestThen: 53 });
  });

  test("with nothing at its limit, or where one takes nothing of it, nothing is said", () => {
    expect(
      overlapOf(
        copy,
        scan,
        disks([
          [copy, 0.2],
          [scan, 0.3],
        ]),
      ),
    ).toBeUndefined();
    expect(
      overlapOf(
        copy,
        scan,
        disks([
          [copy, 0.01],
          [scan, 0.95],
        ]),
      ),
    ).toBeUndefined();
    expect(overlapOf(copy, job("scan", "03:05", "04:00"), disks([[copy, 0.97]]))).toBeUndefined();
  });

  test("where moving would not help, nothing is said", () => {
    expect(
      overlapOf(
        copy,
        scan,
        disks(
          [
            [copy, 0.12],
            [scan, 0.12],
          ],
          0.88,
        ),
      ),
    ).toBeUndefined();
  });

  test("a job that ran only beside the other takes what is left", () => {
    const inner = job("inner", "02:30", "02:50");
    expect(
      overlapOf(
        copy,
        inner,
        disks([
          [copy, 0.45],
          [inner, 0.5],
        ]),
      ),
    ).toMatchObject({ highestNow: 98, highestThen: 53 });
  });

  test("with noise: in nineteen of twenty the same start (seed 19)", () => {
    const random = seeded(19);
    let right = 0;
    for (let i = 0; i < 20; i++) {
      const found = overlapOf(
        copy,
        scan,
        disks(
          [
            [copy, 0.4],
            [scan, 0.56],
          ],
          0.03,
          1,
          () => (random() - 0.5) * 0.04,
        ),
      );
      if (found?.moves === "second" && Math.abs(found.shiftMinutes - 45) <= 15) right++;
    }
    expect(right).toBeGreaterThanOrEqual(19);
  });
});

describe("habits", () => {
  test("what rises at the same clock time on most days is a job of that time", () => {
    const nights = Array.from({ length: 10 }, (_, days) => job("x", "02:10", "03:05", days));
    // It does not run on two of ten.
    const line = disks(
      nights.filter((_, i) => i % 5 !== 3).map((one) => [one, 0.5] as const),
      0.03,
      10,
    );
    expect(habitsOf(line, at("12:00", 9), 0)).toMatchObject([
      { machine: "vault", fromMs: at("02:10", 9), toMs: at("03:05", 9) },
    ]);
  });

  test("by the clock of the zone", () => {
    const nights = Array.from({ length: 8 }, (_, days) => job("x", "23:00", "23:30", days));
    const found = habitsOf(
      disks(
        nights.map((one) => [one, 0.5] as const),
        0.03,
        8,
      ),
      at("23:59", 7),
      2 * hour,
    );
    expect(found).toMatchObject([{ fromMs: at("23:00", 7) }]);
  });

  test("what is high all day, and what happens now and then, is none", () => {
    expect(habitsOf(disks([], 0.8, 10), at("12:00", 9), 0)).toEqual([]);
    const some = [1, 5].map((days) => [job("x", "02:10", "03:05", days), 0.5] as const);
    expect(habitsOf(disks(some, 0.03, 10), at("12:00", 9), 0)).toEqual([]);
  });
});
