import { describe, expect, test } from "vitest";
import { calendarGrid, daysEarlier, isCalendarStep } from "./calendar.ts";
import { zoneOffsets } from "../time/zone-offsets.ts";
import { stepAt, stepStart } from "./step.ts";

// The oracle is the platform's own calendar (ECMA-402), which reads the same rules of zones (IANA) by other code.
const zones = [
  "UTC",
  "Europe/Berlin",
  "America/Santiago",
  "Asia/Kolkata",
  "Australia/Lord_Howe",
  "America/New_York",
  "Pacific/Apia",
  "Asia/Kathmandu",
];
const hour = 3_600_000;
const parts = (ms: number, zone: string) =>
  Object.fromEntries(
    new Intl.DateTimeFormat("en-GB", {
      timeZone: zone,
      year: "numeric",
      month: "numeric",
      day: "numeric",
      weekday: "short",
      hour: "numeric",
      minute: "numeric",
      second: "numeric",
      hourCycle: "h23",
    })
      .formatToParts(ms)
      .map(({ type, value }) => [type, value]),
  );
const clockOf = (ms: number, zone: string) => {
  const { hour: h, minute, second } = parts(ms, zone);
  return `${h}:${minute}:${second}`;
};

describe.each(zones)("the calendar of %s", (zone) => {
  const [from, to] = [Date.UTC(2025, 11, 20, 5), Date.UTC(2027, 0, 10)];
  test("every day begins when its date does, and each date once", () => {
    const { edgesMs, count } = calendarGrid(from, to, "day", zone);
    const dates = [...(edgesMs as Float64Array)].map((edge) => {
      const { year, month, day } = parts(edge, zone);
      const before = parts(edge - 1, zone);
      expect([before["year"], before["month"], before["day"]].join("-")).not.toBe([year, month, day].join("-"));
      return [year, month, day].join("-");
    });
    expect(new Set(dates).size).toBe(dates.length);
    expect(count).toBe(dates.length - 1);
    expect(edgesMs?.[0]).toBeLessThanOrEqual(from);
    expect(edgesMs?.[count]).toBeGreaterThanOrEqual(to);
  });
  test("weeks begin on Mondays, months on their firsts", () => {
    for (const edge of calendarGrid(from, to, "week", zone).edgesMs as Float64Array)
      expect(parts(edge, zone)["weekday"]).toBe("Mon");
    for (const edge of calendarGrid(from, to, "month", zone).edgesMs as Float64Array)
      expect(Number(parts(edge, zone)["day"])).toBe(1);
  });
  test("steps of three days stand where they stand, whichever window is looked at", () => {
    const [a, b] = [
      calendarGrid(from, to, "day", zone, 3),
      calendarGrid(from + 40 * 24 * hour, to, "day", zone, 3),
    ].map(({ edgesMs }) => new Set(edgesMs));
    for (const edge of b as Set<number>) if (edge < to) expect(a?.has(edge)).toBe(true);
  });
  test("so many days earlier the clock shows the same, also across its changes, where that time is there", () => {
    for (let at = from; at < to; at += 37 * hour) {
      const earlier = daysEarlier(at, 7, zone);
      expect(Math.abs(earlier - (at - 7 * 24 * hour))).toBeLessThanOrEqual(hour);
      if (Number(parts(at, zone)["hour"]) < 4) continue; // a time that a change leaves out
      expect(clockOf(earlier, zone), new Date(earlier).toISOString()).toBe(clockOf(at, zone));
    }
  });
  test("how far its clock is ahead, hour by hour", () => {
    const offset = zoneOffsets(zone);
    for (let at = from; at < to; at += 7 * hour + 1800_000) {
      const { year, month, day, hour: h, minute, second } = parts(at, zone);
      expect(offset(at)).toBe(
        Date.UTC(Number(year), Number(month) - 1, Number(day), Number(h), Number(minute), Number(second)) - at,
      );
    }
  });
});

test("a moment belongs to the step that has begun and not ended, on steps of any length", () => {
  const grid = calendarGrid(Date.UTC(2026, 2, 1), Date.UTC(2026, 5, 1), "month", "Europe/Berlin");
  for (let k = 0; k < grid.count; k++) {
    expect(stepAt(grid, stepStart(grid, k))).toBe(k);
    expect(stepAt(grid, stepStart(grid, k + 1) - 1)).toBe(k);
  }
  expect(stepAt(grid, grid.fromMs - 1)).toBe(-1);
  expect(stepAt(grid, stepStart(grid, grid.count))).toBe(grid.count);
});

test("a zone that nobody knows is UTC; a step is the calendar's by its name alone", () => {
  expect(zoneOffsets("Nowhere/Land")(0)).toBe(0);
  expect(["day", "week", "month", "auto", "toString", 86_400, undefined].map(isCalendarStep)).toEqual([
    true,
    true,
    true,
    false,
    false,
    false,
    false,
  ]);
});
