import { expect, test } from "vitest";
import { RunShares } from "./run-shares.ts";

const morning = { name: "m", everySeconds: 1, sentences: [{ counter: "a" }] };
const evening = { name: "e", everySeconds: 1, sentences: [{ counter: "b" }] };

/** Slices of ten seconds that used so many percent of a processor each. */
function sliced() {
  let now = { atMs: 0, usedMs: 0 };
  const shares = new RunShares(() => now);
  const pass = (percents: readonly number[], on: readonly (typeof morning)[] = []) => {
    for (const percent of percents) {
      now = { atMs: now.atMs + 10_000, usedMs: now.usedMs + percent * 100 };
      shares.slice(on);
    }
  };
  return { shares, pass };
}

test("what a run takes is the median of its slices beyond the median of those without", () => {
  const { shares, pass } = sliced();
  pass([0.4, 0.3, 0.5, 9, 0.4]); // once in a while the server does something of itself
  expect(shares.of(morning)).toBeUndefined();
  pass([7, 1, 0.9, 1.1, 6], [morning]); // in the first it began
  expect(shares.of(morning)).toBeCloseTo(0.0065, 6); // of 1, 0.9, 1.1, 6 beyond 0.4
  expect(shares.of(evening)).toBeUndefined();
  pass([3, 0.4]);
  expect(shares.of(morning)).toBeCloseTo(0.0065, 6);
});

test("slices of two runs, and of too few, say nothing", () => {
  const { shares, pass } = sliced();
  pass([0.4, 0.4, 0.4]);
  pass([1, 2, 2, 2, 2], [morning, evening]);
  pass([1, 1, 1], [morning]);
  expect(shares.of(morning)).toBeUndefined();
  pass([1], [morning]);
  expect(shares.of(morning)).toBeCloseTo(0.006, 6);
  expect(shares.of({ ...morning, everySeconds: 5 })).toBeUndefined();
});
