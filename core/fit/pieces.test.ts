import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { leastHosts } from "./bound.ts";
import { Completion } from "./complete.ts";
import type { FitGuest, FitHost, FitProblem } from "./fit-problem.ts";
import { HostLoad } from "./host-load.ts";
import { searchFit } from "./search.ts";

const host = (name: string, capacity: number, base: readonly number[] = [0, 0, 0, 0]): FitHost => ({
  name,
  capacity: [capacity],
  base: [Float64Array.from(base)],
  stays: false,
});
const guest = (load: readonly number[], more: Partial<FitGuest> = {}): FitGuest => ({
  name: "g",
  host: -1,
  load: [Float64Array.from(load)],
  ...more,
});
const problem = (
  hosts: readonly FitHost[],
  guests: readonly FitGuest[],
  more: Partial<FitProblem> = {},
): FitProblem => ({
  hosts,
  guests,
  apart: [],
  above: 0,
  headroom: 0,
  ...more,
});
const always = { isOver: () => false };

describe("what a host is loaded with", () => {
  test("a guest fits where no more moments than are allowed lie above the limit", () => {
    const one = guest([1, 1, 9, 1]);
    expect(new HostLoad(host("h", 5), 0, 0).fits(one)).toBe(false);
    expect(new HostLoad(host("h", 5), 0, 1).fits(one)).toBe(true);
    expect(new HostLoad(host("h", 10), 0.1, 0).fits(one)).toBe(true);
    expect(new HostLoad(host("h", 10), 0.11, 0).fits(one)).toBe(false);
  });
  test("what is put on and taken off again leaves it as it was", () => {
    const load = new HostLoad(host("h", 10, [4, 4, 4, 4]), 0, 0);
    const one = guest([5, 5, 5, 5]);
    load.add(one);
    expect(load.fits(guest([2, 2, 2, 2]))).toBe(false);
    load.take(one);
    expect(load.fits(guest([6, 6, 6, 6]))).toBe(true);
    expect(load.fits(guest([6.01, 0, 0, 0]))).toBe(false);
  });
  test("a host that needs too much by itself holds nothing", () => {
    expect(new HostLoad(host("h", 3, [4, 1, 1, 1]), 0, 0).holds()).toBe(false);
    expect(new HostLoad(host("h", 3, [4, 1, 1, 1]), 0, 1).holds()).toBe(true);
  });
  test("what is not bounded bounds nothing", () =>
    expect(new HostLoad(host("h", Number.POSITIVE_INFINITY), 0.5, 0).fits(guest([1e12, 0, 0, 0]))).toBe(true));
});

describe("the least number of hosts", () => {
  const six = [1, 2, 3, 4].map((n) => host(`h${n}`, 6));
  /** A load at one of four moments. */
  const alone = (moment: number, load: number) => [0, 1, 2, 3].map((one) => (one === moment ? load : 0));
  const times = (count: number, load: readonly number[]) => Array.from({ length: count }, () => load);
  test.each<[readonly (readonly number[])[], number]>([
    [[alone(0, 4), alone(1, 4), alone(2, 4)], 1],
    [times(3, alone(0, 4)), 2],
    [times(3, [6, 6, 6, 6]), 3],
    [times(4, alone(0, 7)), 5],
  ])("of %j on hosts of six is %d", (loads, least) =>
    expect(
      leastHosts(
        problem(
          six,
          loads.map((load) => guest(load)),
        ),
        0,
      ),
    ).toBe(least),
  );
  test("hosts' own needs and headroom take room away, the largest count first", () => {
    const hosts = [host("small", 2), host("large", 10, [4, 4, 4, 4])];
    expect(leastHosts(problem(hosts, [guest([6, 6, 6, 6])]), 0)).toBe(1);
    expect(leastHosts(problem(hosts, [guest([6, 6, 6, 6])], { headroom: 0.1 }), 0)).toBe(2);
  });
  test("each host may be above its limit in so many moments", () => {
    const loads = [guest([7, 1, 1, 1]), guest([1, 7, 1, 1])];
    expect(leastHosts(problem(six, loads), 0)).toBe(2);
    expect(leastHosts(problem(six, loads), 2)).toBe(1);
  });
  test("hosts that stay are on, also without guests", () => {
    const staying = six.map((one, i) => ({ ...one, stays: i < 2 }));
    expect(leastHosts(problem(staying, []), 0)).toBe(2);
    expect(leastHosts(problem(staying, [guest([1, 1, 1, 1])]), 0)).toBe(2);
  });
  test("it is never more than what a placement has (property)", () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 4, maxLength: 4 }), {
          minLength: 1,
          maxLength: 7,
        }),
        fc.array(fc.integer({ min: 6, max: 14 }), { minLength: 1, maxLength: 4 }),
        (loads, sizes) => {
          const given = problem(
            sizes.map((size, i) => host(`h${i}`, size)),
            loads.map((load) => guest(load)),
          );
          const { best, bound, proven } = searchFit(given, always);
          expect(proven).toBe(true);
          if (!best) return;
          expect(bound).toBe(best.on);
          expect(leastHosts(given, 0)).toBeLessThanOrEqual(best.on);
          // Nothing lies above a limit in any moment.
          sizes.forEach((size, h) => {
            for (let t = 0; t < 4; t++)
              expect(
                loads.reduce((sum, load, g) => (best.hostOf[g] === h ? sum + (load[t] as number) : sum), 0),
              ).toBeLessThanOrEqual(size);
          });
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe("filling one host after the other", () => {
  const place = (given: FitProblem, set: readonly number[], isOver = () => false) => {
    const order = given.guests.map((_, g) => g);
    const enemies = given.guests.map(
      (_, g) => new Set(given.apart.flatMap(([a, b]) => (a === g ? [b] : b === g ? [a] : []))),
    );
    return new Completion(given, { allowed: 0, enemies, order }, isOver).place(set);
  };
  const sizes = (...all: number[]) => all.map((size) => guest([size, size, size, size]));
  test("finds what first fit does not: 6+4, 5+5, 4+3+3 on three hosts of ten", () => {
    const given = problem(
      [1, 2, 3].map((n) => host(`h${n}`, 10)),
      sizes(6, 5, 5, 4, 4, 3, 3),
    );
    const found = place(given, [0, 1, 2]);
    expect(found).toMatchObject({ on: 3 });
    expect(place(given, [0, 1])).toBeUndefined();
  });
  test("heeds where a guest may run, and which must not meet", () => {
    const hosts = [host("a", 10), host("b", 10)];
    const bound = problem(hosts, [...sizes(3), guest([3, 3, 3, 3], { only: [1] })]);
    expect(place(bound, [0, 1])).toMatchObject({ hostOf: [expect.any(Number), 1] });
    expect(place(bound, [0])).toBeUndefined();
    const apart = problem(hosts, sizes(1, 1), { apart: [[0, 1]] });
    const found = place(apart, [0, 1]) as { hostOf: readonly number[] };
    expect(found.hostOf[0]).not.toBe(found.hostOf[1]);
    expect(place(apart, [0])).toBeUndefined();
  });
  test("stopped, it says that it does not know", () => {
    const given = problem(
      [1, 2, 3].map((n) => host(`h${n}`, 100)),
      sizes(...Array.from({ length: 30 }, (_, i) => 9 + (i % 3))),
    );
    expect(place(given, [0, 1, 2], () => true)).toBe("left");
  });
});

describe("very many hosts", () => {
  const many = Array.from({ length: 30 }, (_, i) => host(`h${i}`, 10));
  test("what meets the bound is proven without going through all sets", () => {
    const guests = Array.from({ length: 60 }, (_, g) => guest([5, 5, 5, 5], { host: g % 30 }));
    expect(searchFit(problem(many, guests), always)).toMatchObject({ proven: true, bound: 30, best: { on: 30 } });
  });
  test("what does not is the best that was found, and not proven", () => {
    // Sixteen of six stand alone on hosts of ten; the bound, of amounts, is ten.
    const guests = Array.from({ length: 16 }, (_, g) => guest([6, 6, 6, 6], { host: g }));
    expect(searchFit(problem(many, guests), always)).toMatchObject({ proven: false, bound: 10, best: { on: 16 } });
  });
});
