import { eventGroups } from "./event-groups.ts";
import { describe, expect, test } from "vitest";
import { momentText, spanText, timeTicks } from "./moments.ts";
import { dragged } from "./dragged.ts";
import { brushed, railParts, railSpan, searchWithWindow, spanOf, stepped, type TimeWindow, usualWindow, widened, windowFromSearch } from "./time-window.ts";

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
  test.each(["", "last=abc", "last=-5", "last=1e12", "from=2026-11-23&to=2026-11-22", "from=x&to=y", "from=2026-11-23T10:00:00Z", "every=7"])("%j gives the usual window", (search) => {
    expect(windowFromSearch(new URLSearchParams(search))).toEqual(usualWindow);
  });
});

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
  test("wider doubles around the middle", () => expect(widened(span, now)).toEqual({ kind: "fixed", fromMs: now - 2.5 * hour, toMs: now - 0.5 * hour }));
  test("following ends now", () => expect(spanOf(usualWindow, now)).toEqual({ fromMs: now - 900_000, toMs: now }));
  test.each([
    ["from", -1000, { fromMs: span.fromMs - 1000, toMs: span.toMs }],
    ["from", 10 * hour, { fromMs: span.toMs - 10_000, toMs: span.toMs }],
    ["to", 1000, { fromMs: span.fromMs, toMs: span.toMs + 1000 }],
    ["to", -10 * hour, { fromMs: span.fromMs, toMs: span.fromMs + 10_000 }],
    ["move", 10 * hour, { fromMs: now - hour, toMs: now }],
    ["move", -hour, { fromMs: now - 3 * hour, toMs: now - 2 * hour }],
  ] as const)("dragging %s by %d ms", (kind, by, expected) => expect(dragged(span, { kind, startMs: now, atMs: now + by }, now)).toEqual(expected));
});

describe("the rail", () => {
  test.each([[300_000, 2], [900_000, 2], [hour, 12], [6 * hour, 48], [24 * hour, 192], [7 * 24 * hour, 120 * 24]])("for a window of %d ms shows %d hours that hold it", (lengthMs, hours) => {
    const span = { fromMs: now - lengthMs, toMs: now };
    const rail = railSpan(span, now);
    expect(rail.toMs - rail.fromMs).toBe(hours * hour);
    expect(rail.fromMs).toBeLessThanOrEqual(span.fromMs);
    expect(rail.toMs).toBeGreaterThanOrEqual(span.toMs);
    expect(rail.toMs % ((hours * hour) / railParts)).toBe(0);
  });
  test("moves to an old window and keeps it inside", () => {
    const span = { fromMs: now - 90 * 24 * hour, toMs: now - 90 * 24 * hour + hour };
    const rail = railSpan(span, now);
    expect(rail.fromMs).toBeLessThan(span.fromMs);
    expect(rail.toMs).toBeGreaterThan(span.toMs);
  });
});

describe("moments in the viewer's zone", () => {
  test("ticks are round, inside, and not more than asked for; at midnight they carry the day", () => {
    const from = new Date(2026, 10, 23, 20, 7).getTime();
    const ticks = timeTicks(from, from + 8 * hour, 10);
    expect(ticks.map(({ text }) => text)).toEqual(["21:00", "22:00", "23:00", "Tue 24 Nov", "01:00", "02:00", "03:00", "04:00"]);
    expect(timeTicks(from, from + 60_000, 6).map(({ text }) => text)).toEqual(["20:07:00", "20:07:10", "20:07:20", "20:07:30", "20:07:40", "20:07:50", "20:08:00"].slice(0, 7));
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
  const event = (fromMs: number, toMs = fromMs) => ({ id: fromMs, fromMs, toMs, kind: "note", machine: "", text: "", tags: {} });
  const groups = eventGroups([event(500), event(100, 300), event(105), event(999), event(1000), event(-1)], { fromMs: 0, toMs: 1000 }, 1000);
  expect(groups.map(({ fromMs, toMs, all }) => [fromMs, toMs, all.length])).toEqual([[100, 300, 2], [500, 500, 1], [999, 999, 1]]);
  expect(eventGroups([event(1), event(2)], { fromMs: 0, toMs: 1000 }, 0)).toHaveLength(2);
});
