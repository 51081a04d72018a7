import { describe, expect, test } from "vitest";
import type { FileSeries } from "../pages/file-series.ts";
import { globOf } from "../counters/glob.ts";
import { intervalAdvice } from "./interval-advice.ts";
import { allowedSilenceMs, stateOf } from "./source.ts";
import { applyTakeRules, type TakeRule } from "./take-rules.ts";

test.each([
  ["*", "anything", ["anything"]],
  ["*", "", [""]],
  ["a*", "abc", ["bc"]],
  ["a*", "ba", undefined],
  ["*c", "abc", ["ab"]],
  ["a*c*e", "abcde", ["b", "d"]],
  ["ab*ba", "aba", undefined],
  ["abc", "abc", []],
  ["a.c", "abc", undefined],
  ["**", "ab", ["", "ab"]],
  ["", "", []],
])("%j on %j gives %j", (pattern, text, stars) => {
  expect(globOf(pattern).match(text)).toEqual(stars);
});

test("many stars on a long text take no longer than few", () => {
  expect(globOf(`${"a*".repeat(40)}b`).match("a".repeat(20_000))).toBe(undefined);
});

describe("rules", () => {
  const series: FileSeries = {
    counter: "node_disk_read_bytes",
    tags: { device: "sda", mode: "x" },
    unit: "By",
    kind: "total",
  };
  const cases: readonly (readonly [string, readonly TakeRule[], object | undefined])[] = [
    ["none: taken as it is", [], { ...series, factor: 1 }],
    ["left", [{ do: "leave", counter: "node_disk_*" }], undefined],
    [
      "the last that fits decides",
      [
        { do: "leave", counter: "*" },
        { do: "take", counter: "*_read_*" },
      ],
      { ...series, factor: 1 },
    ],
    ["left by a tag", [{ do: "leave", counter: "*", where: { device: "sd*" } }], undefined],
    ["a tag that is not there is empty", [{ do: "leave", counter: "*", where: { site: "" } }], undefined],
    ["a tag that does not fit", [{ do: "leave", counter: "*", where: { device: "nvme*" } }], { ...series, factor: 1 }],
    [
      "renamed with stars",
      [{ do: "rename", counter: "node_*_read_*", to: "*.read.*" }],
      { ...series, counter: "disk.read.bytes", factor: 1 },
    ],
    [
      "later rules see the new name",
      [
        { do: "rename", counter: "node_*", to: "*" },
        { do: "leave", counter: "disk_*" },
      ],
      undefined,
    ],
    [
      "tag set",
      [{ do: "tag", counter: "*", tag: "site", value: "studio" }],
      { ...series, tags: { ...series.tags, site: "studio" }, factor: 1 },
    ],
    [
      "tag renamed",
      [{ do: "rename tag", counter: "*", tag: "device", to: "disk" }],
      { ...series, tags: { mode: "x", disk: "sda" }, factor: 1 },
    ],
    ["tag dropped", [{ do: "drop tag", counter: "*", tag: "mode" }], { ...series, tags: { device: "sda" }, factor: 1 }],
    [
      "scaled twice",
      [
        { do: "scale", counter: "*", factor: 512, unit: "By" },
        { do: "scale", counter: "*", factor: 8, unit: "bit" },
      ],
      { ...series, unit: "bit", factor: 4096 },
    ],
  ];
  test.each(cases)("%s", (_name, rules, made) => {
    expect(applyTakeRules(rules, series)).toEqual(made);
  });
});

test.each([
  [0, "reporting"],
  [11_999, "reporting"],
  [12_001, "late"],
  [17_000, "late"],
  [17_001, "silent"],
] as const)("asked every 5 s and heard %i ms ago: %s (2 s of grace)", (ago, state) => {
  expect(stateOf({ pause: null, intervalMs: 5000 }, 1_000_000 - ago, 0, 1_000_000)).toBe(state);
});
test("what sends by itself waits to be heard for the first time, however long that takes", () => {
  for (const kind of ["push", "collector"] as const) {
    expect(stateOf({ pause: null, intervalMs: 5000, kind }, undefined, 0, 1_000_000_000)).toBe("waiting");
    expect(stateOf({ pause: null, intervalMs: 5000, kind }, 1, 0, 1_000_000_000)).toBe("silent");
  }
});

test.each([
  ["5 s", 5000, 17_000],
  ["an hour", 3_600_000, 3 * 3_600_000 + 2000],
  ["a day: before the next noon", 86_400_000, 30 * 3_600_000 + 2000],
  ["31 days", 31 * 86_400_000, 31 * 86_400_000 + 6 * 3_600_000 + 2000],
])("one that comes every %s may be silent for so long", (_name, intervalMs, allowed) => {
  expect(allowedSilenceMs(intervalMs)).toBe(allowed);
  expect(stateOf({ pause: null, intervalMs, kind: "push" }, 0, 0, allowed)).not.toBe("silent");
  expect(stateOf({ pause: null, intervalMs, kind: "push" }, 0, 0, allowed + 1)).toBe("silent");
  expect(stateOf({ pause: null, intervalMs, kind: "push" }, 0, 0, intervalMs)).toBe("reporting");
});

test("one that never answered waits, then is silent; a paused one is paused", () => {
  expect(stateOf({ pause: null, intervalMs: 5000 }, undefined, 995_000, 1_000_000)).toBe("waiting");
  expect(stateOf({ pause: null, intervalMs: 5000 }, undefined, 900_000, 1_000_000)).toBe("silent");
  // the server was away, not the source
  expect(stateOf({ pause: null, intervalMs: 5000 }, 1, 999_000, 1_000_000)).toBe("reporting");
  expect(
    stateOf({ pause: { by: "Ines", why: "", sinceMs: 0, untilMs: 2_000_000 }, intervalMs: 5000 }, 1, 0, 1_000_000),
  ).toBe("paused");
});

test("the cost of an interval: 1,000 series every 15 s are 5.76 million samples a day (arithmetic)", () => {
  expect(intervalAdvice(15_000, 1000, 1.6)).toEqual({
    samplesPerDay: 5_760_000,
    bytesPerDay: 9_216_000,
    words: undefined,
  });
  expect(intervalAdvice(1000, 10, 1.6).words).toContain("1 s is for minutes");
  expect(intervalAdvice(5000, 10, 1.6, 4000).words).toContain("takes 4.0 s");
  expect(intervalAdvice(5000, 5000, 1.6).words).toContain("much for one source");
  expect(intervalAdvice(300_000, 5, 1.6).words).toContain("spike");
});
