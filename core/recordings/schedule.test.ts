import { DateTime } from "luxon";
import { describe, expect, test } from "vitest";
import { plannedAfter, plannedAt, type RunSchedule } from "./schedule.ts";

const zone = "Europe/Berlin";
const at = (text: string) => DateTime.fromISO(text, { zone }).toMillis();
const every: RunSchedule = { weekdays: [1, 2, 3, 4, 5, 6, 7], from: "07:20", to: "07:50", zone };
const words = (planned: ReturnType<typeof plannedAt>) =>
  planned &&
  `${DateTime.fromMillis(planned.fromMs, { zone }).toFormat("MM-dd HH:mm ZZ")} ${(planned.toMs - planned.fromMs) / 60_000}`;

describe("when a recording runs by itself", () => {
  test("from the first moment to the one before the last, on its weekdays", () => {
    const weekdays = { ...every, weekdays: [1, 3] };
    // 2026-11-30 is a Monday.
    expect(words(plannedAt(weekdays, at("2026-11-30T07:20")))).toBe("11-30 07:20 +01:00 30");
    expect(words(plannedAt(weekdays, at("2026-11-30T07:49:59.999")))).toBe("11-30 07:20 +01:00 30");
    for (const other of ["2026-11-30T07:19:59.999", "2026-11-30T07:50", "2026-12-01T07:30"])
      expect(plannedAt(weekdays, at(other))).toBeUndefined();
    expect(words(plannedAfter(weekdays, at("2026-11-30T07:20:01")))).toBe("12-02 07:20 +01:00 30");
  });

  test("over midnight, also after it; from a day to a day", () => {
    const night = { ...every, from: "23:30", to: "00:30", firstDay: "2026-11-30", lastDay: "2026-12-01" };
    expect(words(plannedAt(night, at("2026-12-02T00:15")))).toBe("12-01 23:30 +01:00 60");
    expect(plannedAt(night, at("2026-11-30T00:15"))).toBeUndefined();
    expect(plannedAt(night, at("2026-12-02T23:45"))).toBeUndefined();
    expect(words(plannedAfter(night, at("2026-01-01T00:00")))).toBe("11-30 23:30 +01:00 60");
    expect(plannedAfter(night, at("2026-12-02T00:00"))).toBeUndefined();
  });

  // IANA time zone database: Europe/Berlin puts its clock forward on 2026-03-29 at 02:00 and back on 2026-10-25 at
  // 03:00.
  test("by the clock on the days on which it is changed", () => {
    const early = { ...every, from: "01:30", to: "03:30" };
    expect(words(plannedAfter(early, at("2026-03-28T00:00")))).toBe("03-28 01:30 +01:00 120");
    expect(words(plannedAfter(early, at("2026-03-29T00:00")))).toBe("03-29 01:30 +01:00 60");
    expect(words(plannedAfter(early, at("2026-10-25T00:00")))).toBe("10-25 01:30 +02:00 180");
    const within = { ...every, from: "02:15", to: "02:45" };
    // 02:15 is not there: the whole of it falls away. In autumn both times of that name are in it.
    expect(words(plannedAfter(within, at("2026-03-29T00:00")))).toBe("03-30 02:15 +02:00 30");
    expect(words(plannedAfter(within, at("2026-10-25T00:00")))).toBe("10-25 02:15 +02:00 90");
    expect(words(plannedAt({ ...every, from: "02:30", to: "03:30" }, at("2026-03-29T03:10")))).toBe(
      "03-29 03:00 +02:00 30",
    );
  });

  test("in the zone that it names, wherever somebody looks", () => {
    const there = { ...every, zone: "Australia/Lord_Howe" };
    expect(plannedAt(there, Date.UTC(2026, 6, 1, 20, 55))).toEqual({
      fromMs: Date.UTC(2026, 6, 1, 20, 50), // +10:30 in July
      toMs: Date.UTC(2026, 6, 1, 21, 20),
    });
  });
});
