import { describe, expect, test } from "vitest";
import type { FitBody } from "../../../core/api/fit.ts";
import { searchFit } from "../../../core/fit/search.ts";
import { answerOf, asShare, problemOf } from "./fit-answer.ts";
import type { LoadedGuest, LoadedHost, Loads } from "./read-loads.ts";

const gib = 2 ** 30;
const moments = 20;
const flat = (value: number) => new Float64Array(moments).fill(value);
const guest = (
  name: string,
  host: string,
  cpu: number,
  memory: number,
  given: readonly number[] = [],
): LoadedGuest => ({
  name: `${host} ${name}`,
  host,
  load: [flat(cpu), flat(memory * gib), flat(1e6), flat(0)],
  given: [given[0] ?? Number.NaN, given[1] ?? Number.NaN, Number.NaN, Number.NaN],
  diskOperations: undefined,
});
const host = (name: string, cpus: number, memory: number): LoadedHost => ({
  name,
  capacity: [cpus, memory * gib, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY],
  base: [flat(0.1), flat(gib), flat(0), flat(0)],
});
const loads = (guests: readonly LoadedGuest[], hosts: readonly LoadedHost[]): Loads => ({
  fromMs: 0,
  stepMs: 300_000,
  guests,
  hosts,
  notes: [],
});
const how = { percentile: 0.95, headroom: 0.2 };
const body: FitBody = { window: { from: 0, to: 1 }, ...how };
const station = loads(
  [
    guest("web", "hive", 1, 4, [2, 8 * gib]),
    guest("mail", "hive", 0.2, 2, [4, 16 * gib]),
    guest("relay", "stream", 1, 1),
  ],
  [host("hive", 8, 32), host("stream", 4, 8)],
);
const answered = (all: Loads, more: Partial<FitBody> = {}) => {
  const problem = problemOf(all, { ...body, ...more }, how);
  return answerOf(all, problem, searchFit(problem, { isOver: () => false }), how);
};

test.each([
  [0.95, 0.95],
  [95, 0.95],
  [1, 1],
  [100, 1],
  [0, 0],
  [20, 0.2],
])("%d is a share of %d", (given, share) => expect(asShare(given)).toBe(share));

describe("what is asked becomes a problem", () => {
  test("guests know their host by number, percentile and headroom are shares", () => {
    const { guests, above, headroom } = problemOf(station, body, how);
    expect(guests.map(({ host: h }) => h)).toEqual([0, 0, 1]);
    expect(above).toBeCloseTo(0.05, 12);
    expect(headroom).toBe(0.2);
  });
  test("a guest that stays is named alone or with its host, or says where it may run", () => {
    const only = (keep: FitBody["keep"]) =>
      problemOf(station, { ...body, ...(keep && { keep }) }, how).guests.map((one) => one.only);
    expect(only(["relay"])).toEqual([undefined, undefined, [1]]);
    expect(only(["hive web"])).toEqual([[0], undefined, undefined]);
    expect(only([{ guest: "mail", on: ["stream", "nowhere"] }])).toEqual([undefined, [1], undefined]);
    expect(only(["nobody"])).toEqual([undefined, undefined, undefined]);
  });
  test("lists of guests that must not meet become pairs", () => {
    const { apart } = problemOf(station, { ...body, apart: [["web", "mail", "relay"], ["web"]] }, how);
    expect(apart).toEqual([
      [0, 1],
      [0, 2],
      [1, 2],
    ]);
  });
  test("a guest whose host is not among those asked for runs nowhere yet", () =>
    expect(
      problemOf(loads(station.guests, [host("large", 64, 256)]), body, how).guests.map(({ host: h }) => h),
    ).toEqual([-1, -1, -1]));
});

describe("what was found becomes an answer", () => {
  test("the moves, what can be off, and what each host then needs of what it has", () => {
    const answer = answered(station);
    expect(answer).toMatchObject({ fits: true, proven: true, bound: 1, canBeOff: ["stream"] });
    expect(answer.moves).toEqual([{ guest: "stream relay", from: "stream", to: "hive" }]);
    const [hive] = answer.hosts;
    expect(hive?.peak.map(({ resource, needed, capacity }) => [resource, needed, capacity])).toEqual([
      ["processor", expect.closeTo(2.3, 9), 8],
      ["memory", 8 * gib, 32 * gib],
      ["network", 3e6, null],
      ["disk operations", 0, null],
    ]);
    expect(answer.words).toEqual([
      "stream can be switched off: everything fits on 1 of 2 hosts with 20 % of each host kept free, in 95 of 100 moments, and no fewer would do; 1 of 3 move.",
      "hive then needs 28.7 % of its processors and 25 % of its memory.",
    ]);
  });
  test("who stays is said, and no machine is named that must be on", () => {
    const answer = answered(station, { keep: ["relay"] });
    expect(answer.canBeOff).toEqual([]);
    expect(answer.words[0]).toContain("all 3 stay where they are");
  });
  test("what was given much more than was ever used would do with less, with the headroom", () => {
    const [web, mail] = answered(station).guests;
    expect(web?.would).toEqual([]);
    expect(mail?.would).toEqual([
      { resource: "processor", unit: "{cpu}", given: 4, needs: 1 },
      { resource: "memory", unit: "By", given: 16 * gib, needs: 2.5 * gib },
    ]);
  });
  test("where nothing fits it is said how many would be needed", () => {
    const answer = answered(loads([guest("a", "x", 9, 1), guest("b", "x", 9, 1)], [host("x", 4, 8)]));
    expect(answer.fits).toBe(false);
    expect(answer.words[0]).toBe(
      "Nothing fits with 20 % of each host kept free, in 95 of 100 moments: at least 2 hosts like these would be needed, and there are 1.",
    );
    // What runs now is shown as it is.
    expect(answer.hosts[0]?.guests).toEqual(["x a", "x b"]);
  });
  test("of nothing gathered nothing is said but that", () => {
    const answer = answered(loads([], []));
    expect(answer.words).toEqual(["No guests or containers were gathered in this window."]);
    expect(answer).toMatchObject({ moves: [], canBeOff: [], hosts: [] });
  });
  test("long windows are shown in at most four hundred moments, each the most of its stretch", () => {
    const long = new Float64Array(1000).fill(1);
    long[999] = 7;
    const load = [long, new Float64Array(1000), new Float64Array(1000), new Float64Array(1000)];
    const wide = { ...host("hive", 8, 32), base: load.map(() => new Float64Array(1000)) };
    const answer = answered(loads([{ ...guest("web", "hive", 1, 1), load }], [wide]));
    const [curve] = answer.hosts[0]?.curves ?? [];
    expect(curve).toHaveLength(334);
    expect(curve?.at(-1)).toBe(7);
    expect(answer.stepMs).toBe(900_000);
  });
});
