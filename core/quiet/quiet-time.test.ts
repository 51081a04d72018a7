import { DateTime } from "luxon";
import { describe, expect, test } from "vitest";
import { concerns, isAll, occurrencesOf, quietAt, type QuietTime } from "./quiet-time.ts";

const zone = "Europe/Berlin";
const at = (text: string) => DateTime.fromISO(text, { zone }).toMillis();
const quiet = (from: string, to: string, more: Partial<QuietTime> = {}): QuietTime => ({
  id: 1,
  title: "new drives",
  why: "",
  by: "Ines",
  scope: { machines: ["vault"], tags: [] },
  fromMs: at(from),
  toMs: at(to),
  repeat: null,
  endedAtMs: null,
  ...more,
});
const texts = (one: QuietTime, from: string, to: string) =>
  occurrencesOf(one, at(from), at(to)).map(
    ({ fromMs, toMs }) =>
      `${DateTime.fromMillis(fromMs, { zone }).toFormat("MM-dd HH:mm")} ${(toMs - fromMs) / 60_000}`,
  );

describe("when a quiet time holds", () => {
  test("once: from its beginning, not at its end", () => {
    const one = quiet("2026-11-27T10:00", "2026-11-27T12:00");
    expect(
      [at("2026-11-27T09:59"), at("2026-11-27T10:00"), at("2026-11-27T11:59"), at("2026-11-27T12:00")].map(
        (ms) => quietAt([one], { machine: "vault" }, ms) !== undefined,
      ),
    ).toEqual([false, true, true, false]);
  });
  test("on days of the week, over midnight, also where it began before the window", () => {
    const one = quiet("2026-11-23T23:00", "2026-11-24T01:00", { repeat: { weekdays: [1, 5], zone } });
    expect(texts(one, "2026-11-23T00:00", "2026-12-01T00:00")).toEqual([
      "11-23 23:00 120",
      "11-27 23:00 120",
      "11-30 23:00 120",
    ]);
    expect(texts(one, "2026-11-28T00:30", "2026-11-28T00:31")).toEqual(["11-27 23:00 120"]);
  });
  // IANA time zone database: Europe/Berlin puts its clock forward on 2026-03-29 at 02:00 and back on 2026-10-25 at
  // 03:00.
  test("at the same times of the clock on both sides of its change in spring; where one does not exist, at the change", () => {
    const one = quiet("2026-03-27T02:30", "2026-03-27T03:30", { repeat: { weekdays: [5, 6, 7, 1], zone } });
    expect(texts(one, "2026-03-27T00:00", "2026-03-31T00:00")).toEqual([
      "03-27 02:30 60",
      "03-28 02:30 60",
      "03-29 03:00 30",
      "03-30 02:30 60",
    ]);
  });
  test("a night ends at the clock time that was said, on both nights of the change", () => {
    const night = quiet("2026-03-20T23:00", "2026-03-21T07:00", { repeat: { weekdays: [1, 2, 3, 4, 5, 6, 7], zone } });
    const ends = (from: string, to: string) =>
      occurrencesOf(night, at(from), at(to)).map(
        ({ fromMs, toMs }) =>
          `${DateTime.fromMillis(toMs, { zone }).toFormat("MM-dd HH:mm")} after ${(toMs - fromMs) / 3_600_000} h`,
      );
    expect(ends("2026-03-28T12:00", "2026-03-30T12:00")).toEqual(["03-29 07:00 after 7 h", "03-30 07:00 after 8 h"]);
    expect(ends("2026-10-24T12:00", "2026-10-26T12:00")).toEqual(["10-25 07:00 after 9 h", "10-26 07:00 after 8 h"]);
  });
  test("in autumn from the first of the two to the time that was said, an hour longer", () => {
    const one = quiet("2026-10-23T02:30", "2026-10-23T03:30", { repeat: { weekdays: [5, 6, 7, 1], zone } });
    const made = occurrencesOf(one, at("2026-10-25T00:00"), at("2026-10-26T00:00"));
    expect(made.map(({ fromMs, toMs }) => [new Date(fromMs).toISOString(), (toMs - fromMs) / 60_000])).toEqual([
      ["2026-10-25T00:30:00.000Z", 120],
    ]);
  });
  test("none before its first time, none after it was ended, which also cuts the one that holds", () => {
    const one = quiet("2026-11-23T10:00", "2026-11-23T12:00", {
      repeat: { weekdays: [1, 2, 3, 4, 5, 6, 7], zone },
      endedAtMs: at("2026-11-25T11:00"),
    });
    expect(texts(one, "2026-11-20T00:00", "2026-12-01T00:00")).toEqual([
      "11-23 10:00 120",
      "11-24 10:00 120",
      "11-25 10:00 60",
    ]);
  });
  test("of several the one that ends last is told", () => {
    const short = quiet("2026-11-27T10:00", "2026-11-27T11:00");
    const long = quiet("2026-11-27T10:00", "2026-11-27T13:00", { id: 2 });
    expect(quietAt([short, long], { machine: "vault" }, at("2026-11-27T10:30"))?.quiet.id).toBe(2);
  });
});

describe("what it hides", () => {
  test.each([
    [{ machines: [], tags: [] }, { machine: "hive" }, true],
    [{ machines: ["vault"], tags: [] }, { machine: "vault" }, true],
    [{ machines: ["vault"], tags: [] }, { machine: "hive" }, false],
    [{ machines: ["vault"], tags: [] }, {}, false],
    [{ machines: [], tags: [{ tag: "site", is: ["rack", "roof"] }] }, { machine: "hive", site: "roof" }, true],
    [{ machines: ["hive"], tags: [{ tag: "site", is: ["rack"] }] }, { machine: "hive", site: "roof" }, false],
  ])("%j with %j: %s", (scope, tags, expected) =>
    expect(concerns(scope, tags as Readonly<Record<string, string>>)).toBe(expected),
  );
  test("everything, where nothing is said", () =>
    expect([isAll({ machines: [], tags: [] }), isAll({ machines: ["a"], tags: [] })]).toEqual([true, false]));
});
