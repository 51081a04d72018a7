import { expect, test } from "vitest";
import type { Column } from "../tables/table.ts";
import { metersOf } from "./meters.ts";
import { proposedMeter } from "./proposed-meter.ts";
import { figuresOfTable } from "./shown-figures.ts";

const text: Column = { name: "volume", kind: "text" };
const number = (name: string, unit = "By"): Column => ({ name, kind: "number", unit });

test.each<[string, readonly Column[], ReturnType<typeof proposedMeter>]>([
  [
    "its capacity ends the scale",
    [text, number("used"), number("capacity")],
    { column: "used", max: { column: "capacity" } },
  ],
  ["whichever comes first", [text, number("limit"), number("used")], { column: "used", max: { column: "limit" } }],
  [
    "a minimum begins it",
    [text, number("filled"), number("minimum"), number("size")],
    { column: "filled", min: { column: "minimum" }, max: { column: "size" } },
  ],
  ["what counts in another unit is no scale", [text, number("load", "%"), number("size")], { column: "load" }],
  [
    "a word within a word is none",
    [text, number("sizes of day"), number("often")],
    { column: "often", max: { column: "sizes of day" } },
  ],
  ["one column is drawn as it is", [text, number("used")], undefined],
  ["where all would be scale, nothing is proposed", [text, number("limit"), number("size")], undefined],
])("%s", (_, columns, proposed) => {
  expect(proposedMeter({ columns, rows: [] })).toEqual(proposed);
});

test("three volumes with limit and minimum are three meters, each on its own scale", () => {
  const table = {
    columns: [text, number("used"), number("limit"), number("minimum")],
    rows: [
      ["archive", 50, 100, 0],
      ["work", 5, 10, 2],
      ["spare", 1, 20, 0],
    ],
  };
  const { meters, problem } = metersOf(figuresOfTable(table, "rows"), proposedMeter(table));
  expect(problem).toBeNull();
  expect(meters.map(({ name, value, min, max }) => [name, value, min, max])).toEqual([
    ["archive", 50, 0, 100],
    ["work", 5, 2, 10],
    ["spare", 1, 0, 20],
  ]);
});

test("a column that is not there is told of, with those that are", () => {
  const table = { columns: [text, number("used"), number("limit")], rows: [["archive", 50, 100]] };
  const { meters, problem } = metersOf(figuresOfTable(table, "rows"), { column: "free" });
  expect(meters).toEqual([]);
  expect(problem).toBe('There is no column or sentence "free" to draw; there are used, limit.');
});
