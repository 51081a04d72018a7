import { DateTime } from "luxon";
import { expect, test } from "vitest";
import { zoneOffsets } from "./zone-offsets.ts";

const halfHourMs = 1_800_000;

/** Days within which the clocks of these zones were changed (IANA time zone database), and one in which none was. */
const changes: readonly (readonly [zone: string, day: string])[] = [
  ["Europe/Berlin", "2026-03-29"],
  ["Europe/Berlin", "2026-10-25"],
  ["America/New_York", "2026-03-08"],
  ["America/St_Johns", "2026-11-01"],
  // Half an hour, at half past of UTC.
  ["Australia/Lord_Howe", "2026-04-04"],
  ["Australia/Lord_Howe", "2026-10-03"],
  // At midnight: the day has none.
  ["Africa/Cairo", "2026-04-23"],
  // A whole day was left out.
  ["Pacific/Apia", "2011-12-30"],
  ["Asia/Kathmandu", "2026-06-01"],
];

test.each(changes)("the clock of %s around %s is luxon's, each half hour", (zone, day) => {
  const offset = zoneOffsets(zone);
  const noon = Date.parse(`${day}T12:00:00Z`);
  for (let ms = noon - 96 * halfHourMs; ms < noon + 96 * halfHourMs; ms += halfHourMs) {
    const expected = DateTime.fromMillis(ms, { zone }).offset * 60_000;
    expect([new Date(ms).toISOString(), offset(ms)]).toEqual([new Date(ms).toISOString(), expected]);
    expect(offset(ms + halfHourMs - 1)).toBe(expected);
  }
});

test("an unknown zone is UTC, and a zone has one clock", () => {
  expect(zoneOffsets("Nowhere/At_All")(Date.parse("2026-07-01"))).toBe(0);
  expect(zoneOffsets("Europe/Berlin")).toBe(zoneOffsets("Europe/Berlin"));
});
