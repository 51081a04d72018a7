import { describe, expect, test } from "vitest";
import { type Disturbance, steadiness } from "./steadiness.ts";

// A definition of our own: the examples are worked by hand from the formula of docs/figures.md.

const hour = 3_600_000;
const day = 24 * hour;
const start = Date.UTC(2026, 10, 1);
const bounds = (days: number) => Array.from({ length: days + 1 }, (_, i) => start + i * day);
const one = (cause: Disturbance["cause"], fromDays: number, hours: number): Disturbance => ({
  machine: "vault",
  cause,
  id: 7,
  words: "x",
  fromMs: start + fromDays * day,
  toMs: start + fromDays * day + hours * hour,
});
const values = (disturbances: readonly Disturbance[], days: number) =>
  steadiness(disturbances, bounds(days)).map(({ value }) => value);

describe("steadiness", () => {
  test("nothing happened: a hundred", () => expect(values([], 4)).toEqual([100, 100, 100, 100]));
  test("an urgent incident of three hours takes 5 + 3 × 2, of which half is back after three quiet days", () => {
    const [first, , , fourth] = values([one("urgent", 0.25, 3)], 4);
    expect(first).toBe(89);
    expect(fourth).toBe(94.5);
  });
  test.each([
    ["notice", 0.25, 2, 4],
    ["notice", 0.25, 20, 10],
    ["silence", 0.25, 1, 7],
    ["restart", 0.25, 0, 10],
    ["power loss", 0.25, 0.5, 13],
    ["urgent", 0, 24, 30],
  ] as const)("a %s from day %d on for %d h takes %d points", (cause, from, hours, points) => {
    const [first] = steadiness([one(cause, from, hours)], bounds(1));
    expect(first?.dips.map((dip) => dip.points)).toEqual([points]);
    expect(first?.value).toBe(100 - points);
  });
  test("one that lasts over midnight takes its hours of each day, and its beginning once", () => {
    const [first, second] = steadiness([one("notice", 0.75, 8)], bounds(2));
    expect(first?.dips[0]?.points).toBe(8); // 2 and six hours
    expect(second?.dips[0]?.points).toBe(2); // two hours
    expect(second?.dips[0]?.atMs).toBe(start + day);
  });
  test("many never go below nothing, and the largest is told first", () => {
    const [first] = steadiness(
      Array.from({ length: 9 }, (_, i) => one(i === 4 ? "urgent" : "restart", 0.1 + i / 20, 10)),
      bounds(1),
    );
    expect(first?.value).toBe(0);
    expect(first?.dips[0]?.cause).toBe("urgent");
  });
  test("what lies outside the days takes nothing", () =>
    expect(values([one("urgent", -3, 2), one("urgent", 9, 2)], 3)).toEqual([100, 100, 100]));
});
