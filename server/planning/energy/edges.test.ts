import { describe, expect, test } from "vitest";
import { byStep, edgesOf } from "./edges.ts";

const hour = 3_600_000;
const iso = (ms: number) => new Date(ms).toISOString().slice(0, 16);

describe("where energy is cut", () => {
  test("at quarters of an hour, the window's ends, and where days begin by the zone", () => {
    const window = { from: Date.parse("2026-06-01T21:50:00Z"), to: Date.parse("2026-06-01T22:40:00Z") };
    const { all, steps } = edgesOf({ window, step: "day" }, "Europe/Berlin");
    expect([...all].map(iso)).toEqual([
      "2026-06-01T21:50",
      "2026-06-01T22:00",
      "2026-06-01T22:15",
      "2026-06-01T22:30",
      "2026-06-01T22:40",
    ]);
    expect(steps.map(iso)).toEqual(["2026-06-01T21:50", "2026-06-01T22:00", "2026-06-01T22:40"]);
  });
  test.each([
    ["2026-03-28T23:00:00Z", 23],
    ["2026-10-24T22:00:00Z", 25],
    ["2026-06-01T22:00:00Z", 24],
  ])("the day of Berlin that begins at %s has %d hours (IANA)", (from, hours) => {
    const begin = Date.parse(from);
    const { steps } = edgesOf({ window: { from: begin, to: begin + 3 * 24 * hour }, step: "day" }, "Europe/Berlin");
    expect(((steps[1] as number) - (steps[0] as number)) / hour).toBe(hours);
  });
  test("days of a zone that is half an hour off begin between its quarters, months at theirs", () => {
    const window = { from: Date.parse("2026-01-01T00:00:00Z"), to: Date.parse("2026-01-03T00:00:00Z") };
    expect(edgesOf({ window, step: "day" }, "Asia/Kolkata").steps.map(iso)).toContain("2026-01-01T18:30");
    const year = { from: Date.parse("2026-01-15T00:00:00Z"), to: Date.parse("2026-04-15T00:00:00Z") };
    const { all, steps } = edgesOf({ window: year, step: "month" }, "Asia/Kolkata");
    expect(steps.slice(1, -1).map(iso)).toEqual(["2026-01-31T18:30", "2026-02-28T18:30", "2026-03-31T18:30"]);
    // Beyond forty days by the hour, with the months' beginnings between.
    expect((all[1] as number) - (all[0] as number)).toBe(hour);
    expect([...all]).toContain(steps[1]);
  });
  test("without steps the window is one", () =>
    expect(edgesOf({ window: { from: 0, to: hour } }, "UTC").steps).toEqual([0, hour]));
});

describe("what steps hold", () => {
  const all = Float64Array.of(0, 1, 2, 3, 4);
  test("stretches add up; a step of which nothing is known is unknown, not nothing", () => {
    const sums = byStep(all, [0, 2, 3, 4], Float64Array.of(1, 2, 0, 5), Float64Array.of(1, 1, 0, 1));
    expect([...sums]).toEqual([3, Number.NaN, 5]);
  });
});
