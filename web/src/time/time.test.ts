import { eventGroups } from "./event-groups.ts";
import { describe, expect, test } from "vitest";
import { momentText, spanText, timeTicks } from "./moments.ts";
import { dragged } from "./dragged.ts";
import { pannedRail, railLengths, railParts, railStretch, defaultRailMs, zoomedRail } from "./rail-stretch.ts";
import {
  addressWithWindow,
  brushed,
  narrowed,
  searchWithWindow,
  spanOf,
  stepped,
  type TimeWindow,
  defaultWindow,
  widened,
  windowFromSearch,
} from "./time-window.ts";

const hour = 3_600_000;
const now = Date.UTC(2026, 10, 23, 12, 0, 0);

describe("the window in the address", () => {
  test.each<TimeWindow>([
    { kind: "following", lengthMs: 6 * hour, everyMs: 15_000 },
    { kind: "following", lengthMs: 300_000, everyMs: 5000 },
    { kind: "fixed", fromMs: now - hour, toMs: now },
    { kind: "fixed", fromMs: now - 12_345, toMs: now + 1 },
  ])("%j is read back as it was written", (window) => {
    expect(windowFromSearch(searchWithWindow(new URLSearchParams("tile=7"), window))).toEqual(window);
    expect(searchWithWindow(new URLSearchParams("tile=7"), window).get("tile")).toBe("7");
  });
  test.each([
    "",
    "last=abc",
    "last=-5",
    "last=1e12",
    "from=2026-11-23&to=2026-11-22",
    "from=x&to=y",
    "from=2026-11-23T10:00:00Z",
    "every=7",
  ])("%j gives the usual window", (search) => {
    expect(windowFromSearch(new URLSearchParams(search))).toEqual(defaultWindow);
  });
});

test.each([
  ["/counters", "last=900&every=5&reading=x", "/counters?last=900&every=5"],
  [
    "/machines/a#disks",
    "from=2026-11-23T10:00:00Z&to=2026-11-23T11:00:00Z",
    "/machines/a?from=2026-11-23T10%3A00%3A00Z&to=2026-11-23T11%3A00%3A00Z#disks",
  ],
  ["/?last=60", "last=900&every=5", "/?last=60"],
  ["/alerts", "", "/alerts"],
])("%s opened from ?%s leads to %s", (address, search, expected) =>
  expect(addressWithWindow(address, new URLSearchParams(search))).toBe(expected),
);

describe("moving in time", () => {
  const span = { fromMs: now - 2 * hour, toMs: now - hour };
  test("steps are one window long and end at now", () => {
    expect(stepped(span, -1, now)).toEqual({ kind: "fixed", fromMs: now - 3 * hour, toMs: now - 2 * hour });
    expect(stepped(span, 1, now)).toEqual({ kind: "fixed", fromMs: now - hour, toMs: now });
    expect(stepped(span, 1, now - hour / 2)).toEqual({ kind: "fixed", fromMs: now - 1.5 * hour, toMs: now - hour / 2 });
  });
  test("a brush may be drawn either way, is at least ten seconds long and not in the future", () => {
    expect(brushed(now - 1000, now - hour, now)).toEqual({ kind: "fixed", fromMs: now - hour, toMs: now - 1000 });
    expect(brushed(now, now + hour, now)).toEqual({ kind: "fixed", fromMs: now - 10_000, toMs: now });
  });
  test("wider doubles around the middle", () =>
    expect(widened(span, now)).toEqual({ kind: "fixed", fromMs: now - 2.5 * hour, toMs: now - 0.5 * hour }));
  test("narrower halves around the middle, ten seconds at least", () => {
    expect(narrowed(span)).toEqual({ kind: "fixed", fromMs: now - 1.75 * hour, toMs: now - 1.25 * hour });
    expect(narrowed({ fromMs: now - 12_000, toMs: now })).toEqual({
      kind: "fixed",
      fromMs: now - 11_000,
      toMs: now - 1000,
    });
  });
  test("following ends now", () => expect(spanOf(defaultWindow, now)).toEqual({ fromMs: now - 900_000, toMs: now }));
  test.each([
    ["from", -1000, { fromMs: span.fromMs - 1000, toMs: span.toMs }],
    ["from", 10 * hour, { fromMs: span.toMs - 10_000, toMs: span.toMs }],
    ["to", 1000, { fromMs: span.fromMs, toMs: span.toMs + 1000 }],
    ["to", -10 * hour, { fromMs: span.fromMs, toMs: span.fromMs + 10_000 }],
    ["move", 10 * hour, { fromMs: now - hour, toMs: now }],
    ["move", -hour, { fromMs: now - 3 * hour, toMs: now - 2 * hour }],
  ] as const)("dragging %s by %d ms", (kind, by, expected) =>
    expect(dragged(span, { kind, startMs: now, atMs: now + by }, now)).toEqual(expected),
  );
});

describe("the rail", () => {
  const day = 24 * hour;
  const recent = { fromMs: now - 900_000, toMs: now };
  test.each([
    ["thirty days", recent, now - 400 * day, 30 * day],
    ["as much as was gathered", recent, now - 5 * hour, 6 * hour],
    ["an hour at least", recent, now - 60_000, hour],
    ["thirty days while nobody knows", recent, null, 30 * day],
    ["more for a long window", { fromMs: now - 90 * day, toMs: now }, now - 400 * day, 366 * day],
  ] as const)("shows %s", (_, span, gathered, expected) => expect(defaultRailMs(span, now, gathered)).toBe(expected));
  test.each(railLengths)("of %s ends on a whole part of itself, a little after now", (_, lengthMs) => {
    const rail = railStretch({ lengthMs, toMs: null }, { fromMs: now - 60_000, toMs: now }, now);
    expect(rail.toMs - rail.fromMs).toBe(lengthMs);
    expect(rail.toMs % (lengthMs / railParts)).toBe(0);
    expect(rail.toMs - now).toBeGreaterThanOrEqual(0);
    expect(rail.toMs - now).toBeLessThan(lengthMs / railParts);
    expect((lengthMs / railParts) % 10_000).toBe(0);
  });
  test("moves to a window that lies outside, and grows where it is too short for it", () => {
    const old = { fromMs: now - 200 * day, toMs: now - 200 * day + hour };
    const moved = railStretch({ lengthMs: 7 * day, toMs: null }, old, now);
    expect([moved.toMs - moved.fromMs, moved.fromMs < old.fromMs, moved.toMs > old.toMs]).toEqual([
      7 * day,
      true,
      true,
    ]);
    const grown = railStretch({ lengthMs: hour, toMs: null }, { fromMs: now - day, toMs: now }, now);
    expect(grown.toMs - grown.fromMs).toBe(7 * day);
  });
  test("stays where it was moved to, although the window lies elsewhere", () => {
    expect(railStretch({ lengthMs: 7 * day, toMs: now - 100 * day }, recent, now)).toEqual({
      fromMs: expect.closeTo(now - 107 * day, -8),
      toMs: expect.closeTo(now - 100 * day, -8),
    });
  });
  test("zoomed, the moment pointed at stays where it is; at now it follows now", () => {
    const rail = { fromMs: now - 30 * day, toMs: now };
    const nearer = zoomedRail(rail, now - 15 * day, -1, now);
    expect(nearer).toEqual({ lengthMs: 7 * day, toMs: now - 11.5 * day });
    expect(zoomedRail(rail, now, -1, now)).toEqual({ lengthMs: 7 * day, toMs: null });
    expect(zoomedRail({ fromMs: now - hour, toMs: now }, now, -1, now).lengthMs).toBe(hour);
    expect(zoomedRail({ fromMs: now - 1098 * day, toMs: now }, now, 1, now).lengthMs).toBe(1098 * day);
  });
  test("panned, it moves by a share of itself, not beyond now", () => {
    expect(pannedRail({ fromMs: now - day, toMs: now }, -0.5, now)).toEqual({ lengthMs: day, toMs: now - day / 2 });
    expect(pannedRail({ fromMs: now - 1.2 * day, toMs: now - 0.2 * day }, 0.5, now)).toEqual({
      lengthMs: day,
      toMs: null,
    });
  });
});

describe("moments in the viewer's zone", () => {
  test("ticks are round, inside, and not more than asked for; at midnight they carry the day", () => {
    const from = new Date(2026, 10, 23, 20, 7).getTime();
    const ticks = timeTicks(from, from + 8 * hour, 10);
    expect(ticks.map(({ text }) => text)).toEqual([
      "21:00",
      "22:00",
      "23:00",
      "Tue 24 Nov",
      "01:00",
      "02:00",
      "03:00",
      "04:00",
    ]);
    expect(timeTicks(from, from + 60_000, 6).map(({ text }) => text)).toEqual(
      ["20:07:00", "20:07:10", "20:07:20", "20:07:30", "20:07:40", "20:07:50", "20:08:00"].slice(0, 7),
    );
  });
  test("a span names its day once, ISO 8601, and both where they differ", () => {
    const from = new Date(2026, 10, 23, 23, 30).getTime();
    expect(spanText(from, from + 1_200_000)).toEqual({ day: "Mon 2026-11-23", from: "23:30", to: "23:50" });
    expect(spanText(from, from + hour)).toEqual({ day: "Mon 2026-11-23", from: "23:30", to: "2026-11-24 00:30" });
    expect(momentText(from, from + hour)).toBe("2026-11-23 23:30");
    expect(momentText(from, from)).toBe("23:30");
  });
});

test("events on the rail: those that would lie on one another are one tick, those outside have none", () => {
  const event = (fromMs: number, toMs = fromMs) => ({
    id: fromMs,
    fromMs,
    toMs,
    kind: "note",
    machine: "",
    text: "",
    tags: {},
  });
  const groups = eventGroups(
    [event(500), event(100, 300), event(105), event(980), event(1000), event(1001), event(-1), event(-90, 20)],
    { fromMs: 0, toMs: 1000 },
    1000,
  );
  expect(groups.map(({ fromMs, toMs, all }) => [fromMs, toMs, all.length])).toEqual([
    [0, 20, 1],
    [100, 300, 2],
    [500, 500, 1],
    [980, 980, 1],
    [1000, 1000, 1],
  ]);
  expect(eventGroups([event(1), event(2)], { fromMs: 0, toMs: 1000 }, 0)).toHaveLength(2);
});
