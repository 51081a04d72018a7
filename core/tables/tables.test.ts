import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  changedCell,
  changedColumn,
  retypedColumn,
  withColumn,
  withoutColumn,
  withoutRow,
  withRow,
} from "./change-table.ts";
import { readTable } from "./read-table.ts";
import { type Table, timeText } from "./table.ts";
import { linesOfTable, spanOfTable } from "./table-lines.ts";
import { tableOfFigures } from "../dashboards/table-of-figures.ts";
import { writeTable } from "./write-table.ts";

describe("reading a table", () => {
  test.each([
    // RFC 4180 section 2: rules 2 (no break at the end), 4, 6 (quoted commas and breaks), 7 (doubled quotes).
    [
      "a comma",
      'name,note,n\r\n"Bo, Ines","said ""on air""",1\r\nmast,"two\nlines",2',
      ",",
      [
        ["Bo, Ines", 'said "on air"', 1],
        ["mast", "two\nlines", 2],
      ],
    ],
    [
      "a semicolon with decimal commas",
      "name;share\nvault;91,4\nhive;7,25\n",
      ";",
      [
        ["vault", 91.4],
        ["hive", 7.25],
      ],
    ],
    ["tabs", "name\tn\nvault\t1\n", "\t", [["vault", 1]]],
    ["upright lines", "name|n\nvault|1\n", "|", [["vault", 1]]],
  ])("parted by %s", (_, text, delimiter, rows) => {
    const read = readTable(text);
    expect([read.delimiter, read.table.rows, read.heading]).toEqual([delimiter, rows, true]);
  });
  test("columns hold what all of their cells are; empty cells are none", () => {
    const { table } = readTable("when,place,watts\n2026-11-24,roof,12\n2026-11-25 05:10,,\n");
    expect(table).toEqual({
      columns: [
        { name: "when", kind: "time" },
        { name: "place", kind: "text" },
        { name: "watts", kind: "number" },
      ],
      rows: [
        [Date.UTC(2026, 10, 24), "roof", 12],
        [Date.UTC(2026, 10, 25, 5, 10), null, null],
      ],
    });
  });
  test("a heading may say its unit; names that are there twice or missing are made apart", () =>
    expect(readTable("used [By],used [By],\n1,2,3\n").table.columns).toEqual([
      { name: "used", kind: "number", unit: "By" },
      { name: "used 2", kind: "number", unit: "By" },
      { name: "column 3", kind: "number" },
    ]));
  test("without names: every row is data; or as a person says", () => {
    expect(readTable("vault,1\nhive,2\n")).toMatchObject({
      heading: false,
      table: { columns: [{ name: "column 1" }, { name: "column 2" }] },
    });
    expect(readTable("vault,1\nhive,2\n", { heading: true, kinds: { "1": "text" } }).table).toEqual({
      columns: [
        { name: "vault", kind: "text" },
        { name: "1", kind: "text" },
      ],
      rows: [["hive", "2"]],
    });
  });
  test("times that can be read in two ways are told", () =>
    expect(readTable("day,n\n03/04/2026,1\n").notes).toEqual([
      expect.stringMatching(/"day" can be read as m\/d\/y or as d\/m\/y; they are read as m\/d\/y/),
    ]));
  test("cells that do not fit what a person says a column holds are told", () =>
    expect(readTable("n\n1\nx\n", { heading: true, kinds: { n: "number" } })).toMatchObject({
      notes: [expect.stringMatching(/Some cells of n/)],
      table: { rows: [[1], [null]] },
    }));
  test.each([
    ["", /^line 1: the table is empty/],
    ["a,b\n1,2\n3\n", /^line 3: 1 field, the first row has 2/],
    ['a,b\n"1,2\n', /quote/],
    [`a\n${"1\n".repeat(2001)}`, /^line 2002: 2001 rows; a dashboard keeps 2000 at most/],
    [`${"a,".repeat(40)}a\n`, /41 columns; a dashboard keeps 40 at most/],
  ])("%j is refused with its place", (text, message) => expect(() => readTable(text)).toThrow(message));
  test("what is written is read again as the same table (property)", () => {
    const word = fc.string({ minLength: 1, maxLength: 8 }).map((text) => `w${text.replaceAll(/[\r\0]/g, "").trim()}`);
    const row = fc.tuple(
      word,
      fc.option(fc.integer({ min: -1e9, max: 1e9 }), { nil: null }),
      fc.integer({ min: 0, max: 4e9 }).map((s) => s * 1000),
    );
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 6 }), (rows) => {
        const table: Table = {
          columns: [
            { name: "name", kind: "text" },
            { name: "n", kind: "number", unit: "By" },
            { name: "when", kind: "time" },
          ],
          rows,
        };
        const again = readTable(writeTable(table), {
          delimiter: ",",
          heading: true,
          kinds: { name: "text", n: "number", when: "time" },
        }).table;
        expect(again).toEqual(table);
      }),
    );
  });
});

describe("changing a table", () => {
  const table: Table = {
    columns: [
      { name: "name", kind: "text" },
      { name: "n", kind: "number", unit: "By" },
    ],
    rows: [
      ["vault", 1],
      ["hive", null],
    ],
  };
  test("a cell takes what reads as its column's kind, and nothing else", () => {
    expect(changedCell(table, 1, 1, "2,5").rows[1]).toEqual(["hive", 2.5]);
    expect(changedCell(table, 0, 1, "")?.rows[0]).toEqual(["vault", null]);
    expect(changedCell(table, 0, 1, "many")).toBe(table);
  });
  test("a column's name must be its own; an empty unit is none", () => {
    expect(changedColumn(table, 1, { name: "name" })).toBe(table);
    expect(changedColumn(table, 1, { name: " " })).toBe(table);
    expect(changedColumn(table, 1, { unit: "" }).columns[1]).toEqual({ name: "n", kind: "number" });
    expect(changedColumn(table, 1, { name: "bytes" }).columns[1]).toEqual({
      name: "bytes",
      kind: "number",
      unit: "By",
    });
  });
  test("what a column holds changes its cells, and what does not fit becomes empty", () => {
    expect(retypedColumn(table, 1, "text").rows).toEqual([
      ["vault", "1"],
      ["hive", null],
    ]);
    expect(retypedColumn(table, 0, "number").rows).toEqual([
      [null, 1],
      [null, null],
    ]);
    const dated: Table = { columns: [{ name: "d", kind: "time" }], rows: [[Date.UTC(2026, 10, 24)]] };
    expect(retypedColumn(retypedColumn(dated, 0, "text"), 0, "time")).toEqual(dated);
  });
  test("rows and columns come and go", () => {
    expect(withRow(table).rows.at(-1)).toEqual([null, null]);
    expect(withoutRow(table, 0).rows).toEqual([["hive", null]]);
    expect(withColumn(table)).toMatchObject({
      columns: [{}, {}, { name: "column 3", kind: "number" }],
      rows: [
        ["vault", 1, null],
        ["hive", null, null],
      ],
    });
    expect(withoutColumn(table, 0)).toEqual({ columns: [table.columns[1]], rows: [[1], [null]] });
  });
});

describe("a table over time", () => {
  const at = (minute: number) => Date.UTC(2026, 10, 24, 0, minute);
  const table: Table = {
    columns: [
      { name: "when", kind: "time" },
      { name: "place", kind: "text" },
      { name: "watts", kind: "number", unit: "W" },
    ],
    rows: [
      [at(0), "roof", 10],
      [at(0), "hall", 1],
      [at(5), "roof", 20],
      [at(5), "roof", 40],
      [at(15), "roof", 5],
      [null, "roof", 99],
    ],
  };
  test("is one line for each number and row of words, with steps as its own times, a mean where several rows fall into one, gaps as gaps", () => {
    const answer = linesOfTable(table, { from: at(0), to: at(20) }, 100);
    expect([answer?.stepMs, answer?.count]).toEqual([300_000, 4]);
    expect(
      answer?.lines.map(({ tags, values, unit, last, min, mean, max }) => [
        tags["place"],
        values,
        unit,
        last,
        min,
        mean,
        max,
      ]),
    ).toEqual([
      ["roof", [10, 30, null, 5], "W", 5, 5, 15, 30],
      ["hall", [1, null, null, null], "W", 1, 1, 1, 1],
    ]);
  });
  test("rows outside the window are none of it; without times there is nothing over time", () => {
    expect(linesOfTable(table, { from: at(5), to: at(10) }, 100)?.lines.map(({ values }) => values)).toEqual([[30]]);
    expect(
      linesOfTable({ columns: [{ name: "n", kind: "number" }], rows: [[1]] }, { from: 0, to: 1000 }, 10),
    ).toBeNull();
    expect(spanOfTable(table)).toEqual({ from: at(0), to: at(15) });
  });
});

test("figures become a table of their present values", () => {
  const figures = {
    columns: [
      { name: "used", unit: "By", least: 1, most: 2 },
      { name: "line", unit: "1", least: 1, most: 2 },
    ],
    rows: [{ key: "k", name: "vault", tags: {}, values: [2, null] }],
    shown: "last",
  };
  expect(tableOfFigures(figures)).toEqual({
    columns: [
      { name: "line", kind: "text" },
      { name: "used", kind: "number", unit: "By" },
      { name: "line's value", kind: "number" },
    ],
    rows: [["vault", 2, null]],
  });
});

test.each([
  [Date.UTC(2026, 10, 24), "2026-11-24"],
  [Date.UTC(2026, 10, 24, 5, 10), "2026-11-24 05:10"],
  [Date.UTC(2026, 10, 24, 5, 10, 9), "2026-11-24 05:10:09"],
])("%d is written %s (ISO 8601)", (ms, text) => expect(timeText(ms)).toBe(text));
