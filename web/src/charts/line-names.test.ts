import { describe, expect, test } from "vitest";
import type { Line } from "../../../core/reading/document.ts";
import { chartCsv } from "./chart-csv.ts";
import { chartLines } from "./chart-lines.ts";
import { lineNames, tagsOfLines } from "./line-names.ts";

const line = (tags: Record<string, string>, values: readonly (number | null)[] = [], of = "a", unit = "1"): Line => ({
  of,
  tags,
  unit,
  values,
  last: null,
  min: null,
  mean: null,
  max: null,
});
const names = (lines: readonly Line[], per?: readonly string[]) => lines.map(lineNames(lines, per));

describe("lines are named by what tells them apart", () => {
  test.each([
    [
      "different devices of one machine",
      [line({ machine: "m", device: "sda" }), line({ machine: "m", device: "sdb" })],
      ["sda", "sdb"],
    ],
    [
      "the machine first",
      [line({ device: "sda", machine: "b" }), line({ device: "sdb", machine: "a" })],
      ["b sda", "a sdb"],
    ],
    ["a tag that only some have", [line({ machine: "m" }), line({ machine: "m", state: "free" })], ["a", "free"]],
    ["alone, by its machine", [line({ machine: "m", device: "x" })], ["m"]],
    ["alone without tags, by its sentence", [line({}, [], "used")], ["used"]],
    ["a figure without tags", [line({}, [], "figure")], ["result"]],
    ["two sentences", [line({ machine: "m" }, [], "used"), line({ machine: "m" }, [], "size")], ["used: m", "size: m"]],
  ])("%s", (_, lines, expected) => expect(names(lines)).toEqual(expected));
  test("where the sentence says by which tags, those are the name", () =>
    expect(names([line({ machine: "a", interface: "e1" }), line({ machine: "b" })], ["machine"])).toEqual(["a", "b"]));
});

test.each([
  [{ a: { counter: "x", lines: { per: ["machine"] } } }, ["machine"]],
  [
    { a: { counter: "x", lines: { per: ["machine", "device"] } }, b: { counter: "y", lines: { per: ["machine"] } } },
    ["machine", "device"],
  ],
  [{ a: { counter: "x", lines: { per: ["machine"] } }, b: { counter: "y" } }, []],
  [{ a: { counter: "x", lines: "together" as const } }, []],
])("lines of %j are made by %j", (sentences, expected) => expect(tagsOfLines({ sentences })).toEqual(expected));

describe("colours", () => {
  test("an earlier time has the colour of its line and its name with the time", () => {
    const present = line({ machine: "m", device: "b" });
    const made = chartLines(
      [line({ machine: "m", device: "a" }), present, { ...present, earlier: "7d" }],
      ({ tags }) => tags["device"] ?? "",
    );
    expect(made.map(({ name, colourIndex }) => [name, colourIndex])).toEqual([
      ["a", 0],
      ["b", 1],
      ["b, a week earlier", 1],
    ]);
    expect(new Set(made.map(({ key }) => key)).size).toBe(3);
  });
  test("lines of different machines have their machines' colours; several of one machine do not", () => {
    const colours = new Map([
      ["x", 5],
      ["y", 2],
    ]);
    expect(
      chartLines(
        [line({ machine: "x" }), line({ machine: "y" })],
        ({ tags }) => tags["machine"] ?? "",
        [],
        colours,
      ).map(({ colourIndex }) => colourIndex),
    ).toEqual([5, 2]);
    expect(
      chartLines(
        [line({ machine: "x", d: "1" }), line({ machine: "x", d: "2" })],
        ({ tags }) => tags["d"] ?? "",
        [],
        colours,
      ).map(({ colourIndex }) => colourIndex),
    ).toEqual([0, 1]);
  });
});

// RFC 4180 §2: CRLF ends a record, fields with commas, quotes or line breaks are quoted, quotes are doubled.
test("numbers as CSV: gaps are empty, names are quoted, nothing is taken for a formula", () => {
  const lines = chartLines(
    [line({ n: 'disk "a", b' }, [1.5, null], "a", "By"), line({ n: "=1+1" }, [null, -2])],
    ({ tags }) => tags["n"] ?? "",
  );
  expect(chartCsv({ from: Date.UTC(2026, 10, 24), stepMs: 60_000, count: 2 }, lines)).toBe(
    `time,'=1+1,"disk ""a"", b (By)"\r\n2026-11-24T00:00:00.000Z,,1.5\r\n2026-11-24T00:01:00.000Z,-2,\r\n`,
  );
});
