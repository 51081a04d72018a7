import { afterAll, describe, expect, test, vi } from "vitest";

// The zone by its name: to take the setting away does not bring it back. Files of one worker share their modules, and
// what was made in the last of these zones is not for them.
const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
afterAll(() => {
  process.env["TZ"] = own;
  vi.resetModules();
});

const minute = 60_000;
const day = 86_400_000;
const spans = [
  1,
  5,
  20,
  60,
  360,
  1440,
  3 * 1440,
  7 * 1440,
  30 * 1440,
  90 * 1440,
  366 * 1440,
  1100 * 1440,
  3660 * 1440,
].map((minutes) => minutes * minute);
/** Across changes of clock of 2026, at midnight in Santiago (6 September), and at quiet times. */
const begins = [
  Date.UTC(2026, 2, 28, 20, 7),
  Date.UTC(2026, 8, 5, 1, 30),
  Date.UTC(2026, 9, 24, 12),
  Date.UTC(2026, 10, 1),
  Date.UTC(2025, 11, 30, 23),
];

describe.each([
  "UTC",
  "Europe/Berlin",
  "America/New_York",
  "America/Santiago",
  "Asia/Kathmandu",
  "Australia/Lord_Howe",
])("ticks by the clock of %s", async (zone) => {
  process.env["TZ"] = zone;
  vi.resetModules();
  const { timeTicks } = await import("./moments.ts");
  const made = begins.flatMap((from) =>
    spans.map((length) => ({ from, length, ticks: timeTicks(from, from + length, 8) })),
  );

  test("are inside, in order, no moment, day or month twice, and never more than asked for and one", () => {
    for (const { from, length, ticks } of made) {
      expect(ticks.length).toBeLessThanOrEqual(9);
      expect(
        ticks.every(
          ({ atMs }, i) => atMs >= from && atMs <= from + length && (i === 0 || atMs > (ticks[i - 1]?.atMs as number)),
        ),
      ).toBe(true);
      // Clock times come again day by day; days and months do not.
      const texts = ticks.map(({ text }) => text).filter((text) => /[A-Z]/.test(text));
      expect(new Set(texts).size, `${new Date(from).toISOString()} + ${length / day} d: ${texts.join(", ")}`).toBe(
        texts.length,
      );
    }
  });
  test("months and years stand on their firsts, by local midnight or the first moment after it", () => {
    const date = (ms: number) =>
      new Intl.DateTimeFormat("en-GB", {
        timeZone: zone,
        day: "numeric",
        hour: "numeric",
        hourCycle: "h23",
      }).formatToParts(ms);
    const part = (ms: number, type: string) => Number(date(ms).find((one) => one.type === type)?.value);
    for (const { length, ticks } of made) {
      if (length < 300 * day) continue;
      expect(ticks.length).toBeGreaterThan(2);
      for (const { atMs } of ticks) {
        expect(part(atMs, "day")).toBe(1);
        expect(part(atMs, "hour")).toBeLessThanOrEqual(1);
      }
    }
  });
  test("a week has each of its days once, also where the clock is changed at midnight", () => {
    for (const from of begins) {
      const texts = timeTicks(from, from + 7 * day, 8).map(({ text }) => text);
      expect(texts.length).toBeGreaterThanOrEqual(7);
      expect(new Set(texts).size).toBe(texts.length);
    }
  });
});
