import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { type Cell, readCell } from "./cell.ts";
import { counterLogSeries } from "../windows/counter-log.ts";
import { csvRows } from "./csv-rows.ts";
import { TableReader } from "./table-reader.ts";
import { findTableShape, type FoundShape, type TableShape } from "./table-shape.ts";
import { parseTimeText, type TimeForm } from "./time-text.ts";

const fieldsOf = (text: string, delimiter?: string) => [...csvRows(text, delimiter)].map(({ fields }) => fields);

describe("records", () => {
  // RFC 4180 §2, rules 1 to 7, with its own examples.
  test.each([
    [
      "rule 1: each record on a line",
      "aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n",
      [
        ["aaa", "bbb", "ccc"],
        ["zzz", "yyy", "xxx"],
      ],
    ],
    [
      "rule 2: the last without a line break",
      "aaa,bbb,ccc\r\nzzz,yyy,xxx",
      [
        ["aaa", "bbb", "ccc"],
        ["zzz", "yyy", "xxx"],
      ],
    ],
    ["rule 4: spaces belong to the field", "a , b", [["a ", " b"]]],
    [
      "rule 5: in quotes",
      '"aaa","bbb","ccc"\r\nzzz,yyy,xxx',
      [
        ["aaa", "bbb", "ccc"],
        ["zzz", "yyy", "xxx"],
      ],
    ],
    [
      "rule 6: line breaks and commas in quotes",
      '"aaa","b\r\nbb","c,cc"\r\nzzz',
      [["aaa", "b\r\nbb", "c,cc"], ["zzz"]],
    ],
    ["rule 7: quotes twice", '"aaa","b""bb","ccc"', [["aaa", 'b"bb', "ccc"]]],
    [
      "line feeds alone, empty lines and fields",
      "a,\n\n,b\n",
      [
        ["a", ""],
        ["", "b"],
      ],
    ],
    ["a byte order mark", "\ufeffa,b", [["a", "b"]]],
  ])("%s", (_name, text, fields) => {
    expect(fieldsOf(text)).toEqual(fields);
  });
  test("any fields that are written by the rules are read back (property)", () => {
    const quoted = (field: string) => `"${field.replaceAll('"', '""')}"`;
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.string(), { minLength: 2, maxLength: 5 }), { minLength: 1, maxLength: 6 }),
        fc.constantFrom(",", ";", "\t", "|"),
        (rows, delimiter) => {
          expect(fieldsOf(rows.map((row) => row.map(quoted).join(delimiter)).join("\r\n"), delimiter)).toEqual(rows);
        },
      ),
      { seed: 7 },
    );
  });
  test.each([
    ['a,"b', "line 1, column 3: a field in quotes is not closed"],
    ['x\na,"b"c', 'line 2, column 6: after a field in quotes "," or the end of the line should stand, not "c"'],
    ["a\rb", "line 1, column 2: a line ends in half"],
  ])("%j is refused: %s", (text, words) => {
    expect(() => fieldsOf(text)).toThrow(words);
  });
});

describe("times", () => {
  test.each<[string, TimeForm, number, string | undefined]>([
    ["2026-11-23T16:00:00Z", "iso", 60, "2026-11-23T16:00:00.000Z"],
    ["2026-11-23 16:00", "iso", 60, "2026-11-23T15:00:00.000Z"],
    ["2026-11-23T16:00:00.25+01:00", "iso", 0, "2026-11-23T15:00:00.250Z"],
    ["1795449600", "unix seconds", 0, "2026-11-23T16:00:00.000Z"],
    ["1795449600123", "unix milliseconds", 0, "2026-11-23T16:00:00.123Z"],
    ["23.11.2026 16:00:05", "d.m.y", 0, "2026-11-23T16:00:05.000Z"],
    ["11/23/2026 16:00:05.500", "m/d/y", -300, "2026-11-23T21:00:05.500Z"],
    ["23/11/2026, 16:00", "d/m/y", 0, "2026-11-23T16:00:00.000Z"],
    ["2026/11/23 16:00", "y/m/d", 0, "2026-11-23T16:00:00.000Z"],
    ["31.02.2026 16:00", "d.m.y", 0, undefined],
    ["23.11.2026 25:00", "d.m.y", 0, undefined],
    ["yesterday", "iso", 0, undefined],
  ])("%s as %s, %i min east: %s", (text, form, offset, iso) => {
    const ms = parseTimeText(text, form, offset);
    expect(ms === undefined ? undefined : new Date(ms).toISOString()).toBe(iso);
  });
});

function readAs(text: string) {
  const found = findTableShape(text);
  if (!found) return undefined;
  const reader = new TableReader();
  const page = reader.read(text, found.shape);
  return {
    ...found,
    rows: Array.from({ length: page.length }, (_, i) => {
      const { counter, tags, unit, kind } = reader.series[page.which[i] as number] as (typeof reader.series)[0];
      return [counter, tags, unit, kind, new Date(page.timeMs[i] as number).toISOString().slice(11, 19), page.value[i]];
    }),
    leftOut: Object.fromEntries(page.leftOut),
  };
}

describe("tables", () => {
  test("wide: a column for each counter, with its unit; words are tags; empty cells are counted", () => {
    expect(
      readAs(
        "time,room,temperature [Cel],air pressure\n2026-11-23T16:00:00Z,studio,21.5,\n2026-11-23T16:05:00Z,attic,9,1013\n",
      ),
    ).toMatchObject({
      shape: { layout: "wide", delimiter: ",", decimal: ".", timeColumn: "time", timeForm: "iso" },
      doubts: [],
      rows: [
        ["temperature", { room: "studio" }, "Cel", "level", "16:00:00", 21.5],
        ["temperature", { room: "attic" }, "Cel", "level", "16:05:00", 9],
        ["air_pressure", { room: "attic" }, "1", "level", "16:05:00", 1013],
      ],
      leftOut: { "an empty cell": 1 },
    });
  });
  test("semicolons and decimal commas, days first", () => {
    expect(readAs("Datum;Wert\n23.11.2026 16:00;1,5\n24.11.2026 16:00;2,25\n")).toMatchObject({
      shape: { delimiter: ";", decimal: ",", timeForm: "d.m.y", tags: [] },
      doubts: ["The times say no zone; they are taken as UTC."],
      rows: [
        ["Wert", {}, "1", "level", "16:00:00", 1.5],
        ["Wert", {}, "1", "level", "16:00:00", 2.25],
      ],
    });
  });
  test("long: counters' names in a column; what is left is tags; our own export is one", () => {
    expect(
      readAs(
        'time,counter,unit,kind,tags,value\r\n2026-11-23T16:00:00.000Z,lamp,1,level,"{""machine"":""mast""}",1\r\n',
      )?.rows,
    ).toEqual([["lamp", { machine: "mast" }, "1", "level", "16:00:00", 1]]);
    expect(readAs("1,2\n3,4\n")).toBe(undefined);
    expect(readAs("Timestamp\tmetric\tvalue\tsite\n1795449600\theat\t5\tquay\n")).toMatchObject({
      shape: { layout: "long", delimiter: "\t", timeForm: "unix seconds" },
      rows: [["heat", { site: "quay" }, "1", "level", "16:00:00", 5]],
    });
  });
  test("what can be read in two ways is a doubt", () => {
    expect(readAs("time,v\n2026-11-03T16:00Z,1\n")?.doubts).toEqual([]);
    expect(readAs("time,v\n11/03/2026 16:00,1\n")?.doubts[0]).toBe("The times can be read as m/d/y or as d/m/y.");
    expect(readAs("time,v\n11/23/2026 16:00,1\n")?.shape.timeForm).toBe("m/d/y");
    expect(readAs("time;v\n2026-11-03T16:00Z;1,234\n")?.doubts[0]).toContain("1,234 could be");
  });
  test.each([
    ["time,v\n2026-11-23T16:00:00Z,1\nlater,2\n", 'line 3, column 1: "later" is not a time written as iso'],
    ["time,v\n2026-11-23T16:00:00Z,1,5\n", "line 2: 3 fields, the heading has 2"],
    ["when,v\n", 'line 1: there is no column "time" for the time; there are when, v'],
    ["", "line 1: the table is empty"],
  ])("%j is refused: %s", (text, words) => {
    expect(() =>
      new TableReader().read(text, {
        layout: "wide",
        delimiter: ",",
        decimal: ".",
        timeColumn: "time",
        timeForm: "iso",
        offsetMinutes: 0,
      }),
    ).toThrow(words);
  });
});

const at = (minute: number) => `2026-11-23T16:${String(minute).padStart(2, "0")}:00Z`;
const wide = (heading: string, ...rows: readonly string[]) =>
  `time,${heading}\n${rows.map((row, i) => `${at(i)},${row}`).join("\n")}\n`;

describe("cells", () => {
  test.each<[string, "." | ",", Cell]>([
    ["1 234,5", ",", { is: "number", value: 1234.5, isPercent: false }],
    ["1\u202f234\u202f567,5", ",", { is: "number", value: 1_234_567.5, isPercent: false }],
    ["1.234,5", ",", { is: "number", value: 1234.5, isPercent: false }],
    ["1,234.5", ".", { is: "number", value: 1234.5, isPercent: false }],
    ["1\u00a0234,5", ",", { is: "number", value: 1234.5, isPercent: false }],
    ["-1'234.5", ".", { is: "number", value: -1234.5, isPercent: false }],
    ["1,234,567", ".", { is: "number", value: 1_234_567, isPercent: false }],
    ["21.5", ",", { is: "number", value: 21.5, isPercent: false }],
    ["45%", ".", { is: "number", value: 45, isPercent: true }],
    ["45,5 %", ",", { is: "number", value: 45.5, isPercent: true }],
    ["1e-3", ".", { is: "number", value: 0.001, isPercent: false }],
    ["1,23", ".", { is: "words" }],
    ["1,2,3", ",", { is: "words" }],
    ["1 23", ".", { is: "words" }],
    ["1 234.567 8", ".", { is: "words" }],
    ["attic", ".", { is: "words" }],
    ["%", ".", { is: "words" }],
    ...["n/a", "N/A", "NaN", "null", "-", "--", "—", "#N/A", "?"].map((text): [string, ".", Cell] => [
      text,
      ".",
      { is: "nothing" },
    ]),
    ["  ", ".", { is: "empty" }],
  ])("%j with decimal %s", (text, decimal, cell) => {
    expect(readCell(text, decimal)).toEqual(cell);
  });
});

describe("what a column is", () => {
  test("a single cell of another form never makes a tag of a column: it is left out, counted by its reason", () => {
    const found = readAs(
      wide(
        "room,heat,air",
        "attic,21.5,45%",
        "attic,n/a,44%",
        "attic,error,43%",
        "attic,,0.42",
        "attic,22,41%",
        'attic,"1,234.5",41%',
      ),
    );
    expect(found).toMatchObject({
      shape: { decimal: ".", tags: ["room"] },
      doubts: [],
      leftOut: { "a cell that says there is no value": 1, "not a number": 1, "an empty cell": 1 },
    });
    expect(
      found?.rows
        .map(([counter, tags, , , , value]) => [counter, tags, value])
        .filter(([counter]) => counter === "heat"),
    ).toEqual([
      ["heat", { room: "attic" }, 21.5],
      ["heat", { room: "attic" }, 22],
      ["heat", { room: "attic" }, 1234.5],
    ]);
    expect(found?.rows.filter(([counter]) => counter === "air").map((row) => row[5])).toEqual([
      0.45, 0.44, 0.43, 0.42, 0.41, 0.41,
    ]);
  });
  test("per cent stays what it is where the heading says so", () => {
    expect(readAs(wide("air [%]", "45%", "44"))?.rows.map((row) => row[5])).toEqual([45, 44]);
  });
  test("one row with a word where a number was is left out, not a new tag", () => {
    const known = { isCounter: (name: string) => name === "heat", isTag: (name: string) => name === "room" };
    expect(findTableShape(wide("room,heat,air", "101,error,50"), {}, known)).toMatchObject({
      shape: { tags: ["room"] },
      doubts: [],
    });
    expect(readAs(wide("heat [Cel],air", "error,50"))).toMatchObject({
      shape: { tags: [] },
      doubts: [],
      leftOut: { "not a number": 1 },
    });
    expect(readAs(wide("room,heat", "attic,error"))?.rows).toEqual([]);
  });
  test.each([
    [
      "as many words as numbers",
      wide("heat", "1", "two", "3", "four"),
      'Column "heat" holds numbers in 2 rows and words in 2: it could be values, or tell rows apart.',
    ],
    [
      "a word now and then",
      wide("heat,note", "1,", "2,", "3,window open", "4,"),
      'Column "note" holds words in 1 of 4 rows: it could tell rows apart, or be left out.',
    ],
    ["both decimal signs", wide("heat,air", '1.5,"2,5"'), "1.5 has a decimal point and 2,5 a decimal comma."],
    ["a thousand or one", wide("heat", '"1,234"'), "1,234 could be a thousand and some, or one and some."],
    [
      "two columns of one name",
      wide("heat,heat", "1,2"),
      'Columns 2 and 3 are both called "heat": give each a name of its own.',
    ],
    [
      "two columns that would be one counter",
      wide("air heat [Cel],air_heat [K]", "1,2"),
      'Columns 2 and 3 are both called "air_heat [K]": give each a name of its own.',
    ],
  ])("is in doubt: %s", (_name, text, doubt) => {
    expect(findTableShape(text)?.doubts).toEqual([doubt]);
  });
  test("what is said decides", () => {
    const found = findTableShape(wide("heat,note,room", '"1,5",open,101', '"2,5",,102'), {
      decimal: ",",
      tags: ["room"],
    });
    expect(found).toMatchObject({ shape: { decimal: ",", tags: ["room"] }, doubts: [] });
    const reader = new TableReader();
    const page = reader.read(wide("heat,note,room", '"1,5",open,101', '"2,5",,102'), found?.shape as TableShape);
    expect(reader.series.map(({ counter, tags }) => [counter, tags])).toEqual([
      ["heat", { room: "101" }],
      ["heat", { room: "102" }],
    ]);
    expect(Object.fromEntries(page.leftOut)).toEqual({ "not a number": 1, "an empty cell": 1 });
    expect(findTableShape("time,v\n11/03/2026 16:00,1\n", { timeForm: "d/m/y", offsetMinutes: 60 })).toMatchObject({
      shape: { timeForm: "d/m/y", offsetMinutes: 60 },
      doubts: [],
    });
  });
  test("a reader that was told no tags decides by the first rows of each table", () => {
    const { tags: _, ...shape } = (findTableShape(wide("room,heat", "attic,1")) as FoundShape).shape;
    const reader = new TableReader();
    reader.read(wide("room,heat", "attic,1", "attic,error"), shape);
    expect(reader.series).toEqual([{ counter: "heat", unit: "1", kind: "level", tags: { room: "attic" } }]);
    expect(() => reader.read(wide("heat,heat", "1,2"), shape)).toThrow('columns 2 and 3 are both called "heat"');
  });
});

describe("counter logs of Windows' own tools", () => {
  // The form as figures.md has it; values are made up.
  const log =
    '"(PDH-CSV 4.0) (W. Europe Standard Time)(-60)","\\\\DESK\\Processor(_Total)\\% Processor Time","\\\\DESK\\Memory\\Available Bytes","\\\\DESK\\PhysicalDisk(0 C:)\\Disk Read Bytes/sec"\r\n"11/23/2026 17:00:00.250"," "," 8589934592","12.5"\r\n"11/23/2026 17:00:15.250","7.5","8589934592","0"\r\n';
  test("are recognised; times are made UTC by the bias in the heading; the first value of a rate is empty", () => {
    expect(readAs(log)).toMatchObject({
      shape: { layout: "counter log" },
      doubts: [],
      rows: [
        ["windows.memory.available_bytes", { machine: "DESK" }, "By", "level", "16:00:00", 8589934592],
        [
          "windows.physicaldisk.disk_read_bytes_per_sec",
          { machine: "DESK", instance: "0 C:" },
          "By/s",
          "level",
          "16:00:00",
          12.5,
        ],
        [
          "windows.processor.percent_processor_time",
          { machine: "DESK", instance: "_Total" },
          "%",
          "level",
          "16:00:15",
          7.5,
        ],
        ["windows.memory.available_bytes", { machine: "DESK" }, "By", "level", "16:00:15", 8589934592],
        [
          "windows.physicaldisk.disk_read_bytes_per_sec",
          { machine: "DESK", instance: "0 C:" },
          "By/s",
          "level",
          "16:00:15",
          0,
        ],
      ],
      leftOut: { "an empty cell": 1 },
    });
  });
  test("a counter that was asked for twice is taken once, and said", () => {
    const twice =
      '"(PDH-CSV 4.0) (UTC)(0)","\\\\DESK\\Memory\\Available Bytes","\\\\DESK\\memory\\available bytes"\r\n"11/23/2026 17:00:00.250","1","1"\r\n';
    expect(readAs(twice)).toMatchObject({
      rows: [["windows.memory.available_bytes", { machine: "DESK" }, "By", "level", "17:00:00", 1]],
      leftOut: { "a column that stands twice": 1 },
    });
  });
  test.each([
    ["\\\\DESK\\System\\Processor Queue Length", "windows.system.processor_queue_length", "1", {}],
    [
      "\\\\DESK\\Network Interface(Intel[R] I219 (2))\\Bytes Sent/sec",
      "windows.network_interface.bytes_sent_per_sec",
      "By/s",
      { instance: "Intel[R] I219 (2)" },
    ],
    ["\\\\DESK\\LogicalDisk(C:)\\Free Megabytes", "windows.logicaldisk.free_megabytes", "MiBy", { instance: "C:" }],
    ["\\\\DESK\\System\\System Up Time", "windows.system.system_up_time", "s", {}],
    ["\\\\DESK\\Memory\\Pages/sec", "windows.memory.pages_per_sec", "/s", {}],
  ])("%s", (heading, counter, unit, tags) => {
    expect(counterLogSeries(heading)).toEqual({ counter, unit, kind: "level", tags: { machine: "DESK", ...tags } });
  });
});
