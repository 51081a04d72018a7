import { describe, expect, test } from "vitest";
import type { ReadingDocument } from "../reading/document.ts";
import { type Dashboard, emptyDashboard, type Tile } from "./dashboard.ts";
import { pickedReading } from "./pickers.ts";
import { isOnDashboard } from "./reading-on.ts";

type Reading = NonNullable<Tile["reading"]>;
const place = { x: 0, y: 0, width: 4, height: 4 };
const busy: Reading = {
  sentences: { busy: { counter: "system.cpu.time", where: [{ tag: "mode", not: ["idle"] }], lines: "together" } },
};
const ratio: Reading = {
  figure: "used / limit",
  unit: "1",
  sentences: { used: { counter: "system.memory.usage" }, limit: { counter: "system.memory.limit" } },
};
const dashboard: Dashboard = {
  ...emptyDashboard("quay"),
  pickers: [
    { id: "machine", tag: "machine", choose: "several" },
    { id: "site", tag: "site", choose: "one", values: ["quay", "mast"] },
  ],
  tiles: [
    { id: "one", title: "", kind: "lines", place, reading: busy },
    { id: "two", title: "", kind: "lines", place, reading: ratio, ignores: ["machine"] },
  ],
};
const narrowed = (reading: Reading, ...more: object[]): Omit<ReadingDocument, "window"> => ({
  ...reading,
  sentences: Object.fromEntries(
    Object.entries(reading.sentences).map(([name, one]) => [
      name,
      { ...one, where: [...(one.where ?? []), ...(more as [])] },
    ]),
  ),
});

describe("what stands on a dashboard", () => {
  test("every tile's reading, at any step, in any zone", () => {
    expect(isOnDashboard(dashboard, busy)).toBe(true);
    expect(isOnDashboard(dashboard, { ...ratio, step: 60, points: 10, zone: "Europe/Berlin", sums: true })).toBe(true);
  });
  test("what pickers make of it, whatever is picked", () => {
    for (const picks of [{ machine: ["vault", "hive"] }, { machine: ["vault"], site: ["mast"] }, {}])
      expect(isOnDashboard(dashboard, pickedReading(busy, dashboard.pickers ?? [], picks, () => true).reading)).toBe(
        true,
      );
  });
  test("one tile alone, where one is named", () => {
    expect(isOnDashboard(dashboard, busy, "one")).toBe(true);
    expect(isOnDashboard(dashboard, busy, "two")).toBe(false);
  });
});

describe("what does not", () => {
  test.each<[string, Omit<ReadingDocument, "window">]>([
    ["another counter", { sentences: { busy: { ...busy.sentences["busy"], counter: "system.uptime" } } }],
    [
      "lines that the tile adds up",
      { sentences: { busy: { ...busy.sentences["busy"], counter: "system.cpu.time", lines: "each" } } },
    ],
    ["without its condition", { sentences: { busy: { counter: "system.cpu.time", lines: "together" } } }],
    ["a sentence of a figure by itself", { sentences: { used: { counter: "system.memory.usage" } } }],
    ["another figure of its sentences", { ...ratio, figure: "used" }],
    ["its sentences without the figure", { sentences: ratio.sentences }],
    ["one sentence more", { sentences: { ...busy.sentences, more: { counter: "system.uptime" } } }],
    ["a value that a picker does not offer", narrowed(busy, { tag: "site", is: ["harbour"] })],
    ["a tag that no picker has", narrowed(busy, { tag: "disk", is: ["sda"] })],
    ["a picker that the tile leaves aside", narrowed(ratio, { tag: "machine", is: ["vault"] })],
    ["a pattern in a picker's place", narrowed(busy, { tag: "machine", like: "v*" })],
    ["weeks before that it does not show", { ...busy, beside: "7d" }],
    ["what is usual, which it does not show", { ...busy, usual: true }],
    ["names of every object", { sentences: { constructor: { counter: "system.uptime" } } }],
  ])("%s", (_name, asked) => expect(isOnDashboard(dashboard, asked)).toBe(false));

  test("anything, of a dashboard without readings", () => {
    expect(isOnDashboard(emptyDashboard("empty"), busy)).toBe(false);
  });
});
