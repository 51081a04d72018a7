import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Asking } from "./asking.ts";
import { bothHastes, type Haste, whyNotFaster } from "./haste.ts";

const second = 1000;
const start = Date.UTC(2026, 10, 23, 16, 0, 0);
let asked: { atS: number; only: boolean }[];
let asking: Asking;
/** How long an answer takes. */
let tookMs = 0;

beforeEach(() => {
  vi.useFakeTimers({ now: start, toFake: ["Date", "setTimeout", "clearTimeout"] });
  asked = [];
  tookMs = 0;
});
afterEach(async () => {
  const stopped = asking.stop();
  await vi.advanceTimersByTimeAsync(60 * second);
  await stopped;
  vi.useRealTimers();
});

function begin(intervalS: number): void {
  asking = new Asking({ id: 0, kind: "pull", intervalMs: intervalS * second } as never, {
    ask: async (nowMs, only) => {
      asked.push({ atS: (nowMs - start) / second, only: only !== undefined });
      if (tookMs > 0) await new Promise((resolve) => setTimeout(resolve, tookMs));
    },
    asker: { close: async () => {} },
    failed: (error) => {
      throw error;
    },
    planned: () => {},
  });
}
const haste = (everyS: number, untilS: number, counter = "a"): Haste => ({
  ...{ everyMs: everyS * second, untilMs: start + untilS * second, counters: new Set([counter]) },
  wants: (name) => name === counter,
});
const pass = (seconds: number) => vi.advanceTimersByTimeAsync(seconds * second);

test("between its own moments it is asked for what is wanted; at them for everything, once", async () => {
  begin(10);
  asking.hasten(haste(2, 3600));
  await pass(20.5);
  expect(asked.map(({ atS, only }) => `${atS}${only ? "" : " all"}`)).toEqual([
    "2",
    "4",
    "6",
    "8",
    "10 all",
    "12",
    "14",
    "16",
    "18",
    "20 all",
  ]);
});

test("it falls back by itself when who wanted it says no more", async () => {
  begin(10);
  asking.hasten(haste(1, 3));
  await pass(10.5);
  expect(asked.filter(({ only }) => only).map(({ atS }) => atS)).toEqual([1, 2]);
});

test("what is not more often than its own interval changes nothing", async () => {
  begin(5);
  asking.hasten(haste(5, 3600));
  await pass(11);
  expect(asked).toEqual([
    { atS: 5, only: false },
    { atS: 10, only: false },
  ]);
});

test("it is asked one thing at a time: what is wanted meanwhile is left, its own turn waits", async () => {
  begin(10);
  tookMs = 2500;
  asking.hasten(haste(1, 3600));
  await pass(14);
  const begun = asked.map(({ atS }) => atS);
  for (const [i, at] of begun.entries()) if (i > 0) expect(at - (begun[i - 1] as number)).toBeGreaterThanOrEqual(2.5);
  expect(asked.some(({ only }) => !only)).toBe(true);
});

test("what two want at once is one gathering at the finer interval", () => {
  const both = bothHastes(haste(5, 100, "a"), haste(1, 50, "b"));
  expect(both).toMatchObject({ everyMs: 1000, untilMs: start + 100 * second });
  expect([both.wants("a", {}), both.wants("b", {}), both.wants("c", {})]).toEqual([true, true, false]);
  asking = { stop: async () => {} } as never;
});

test("what it takes is looked at each of the first times, and one time in eight after that", async () => {
  const looked = vi.spyOn(process, "cpuUsage");
  begin(1);
  await pass(60);
  const times = asked.length;
  expect(times).toBeGreaterThan(50);
  expect(looked.mock.calls.length / 2).toBeGreaterThanOrEqual(15);
  expect(looked.mock.calls.length / 2).toBeLessThanOrEqual(17 + (times - 16) / 8);
  looked.mockRestore();
});

test("who keeps an interval of its own says why", () => {
  expect(whyNotFaster("pull", false)).toBeUndefined();
  expect(whyNotFaster("collector", false)).toBeUndefined();
  for (const [kind, tables] of [
    ["push", false],
    ["collector", true],
    ["flow", false],
  ] as const)
    expect(whyNotFaster(kind, tables)).toMatch(/interval/);
  asking = { stop: async () => {} } as never;
});

test("what a haste took is known afterwards, of just what it wanted", async () => {
  begin(10);
  const wanted = new Set(["a"]);
  expect(asking.secondsFor(wanted)).toBeUndefined();
  asking.hasten(haste(1, 8));
  await pass(9);
  expect(asking.secondsFor(wanted)).toBeUndefined(); // too few times to say
  asking.hasten(haste(1, 40));
  await pass(31);
  expect(asking.secondsFor(wanted)).toBeGreaterThanOrEqual(0);
  expect(asking.secondsFor(new Set(["a", "b"]))).toBeUndefined();
});
