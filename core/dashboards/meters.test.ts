import { describe, expect, test } from "vitest";
import type { Line } from "../reading/document.ts";
import { figuresOfTable } from "./shown-figures.ts";
import { type MeterLook, metersOf } from "./meters.ts";
import { figuresOfLines } from "./shown-figures.ts";
import type { TileLimit } from "./limits.ts";
import type { Table } from "../tables/table.ts";

// Hand-worked: volumes of needs 4.6, a row each, with their capacities beside what is used.
const volumes: Table = {
  columns: [
    { name: "volume", kind: "text" },
    { name: "used", kind: "number", unit: "GBy" },
    { name: "capacity", kind: "number", unit: "GBy" },
  ],
  rows: [
    ["archive", 75, 100],
    ["work", 10, 40],
    ["tapes", null, 20],
  ],
};
const rows = figuresOfTable(volumes, "rows");
const line = (name: string, values: readonly (number | null)[], unit = "1"): Line => {
  const known = values.filter((value) => value !== null);
  return {
    of: "a",
    tags: { machine: name },
    unit,
    values,
    last: known.at(-1) ?? null,
    min: known.length ? Math.min(...known) : null,
    max: known.length ? Math.max(...known) : null,
    mean: known.length ? known.reduce((a, b) => a + b, 0) / known.length : null,
  };
};
const nameOf = ({ tags }: Line) => tags["machine"] ?? "";
const drawn = (look: MeterLook, limits: readonly TileLimit[] = [], most?: number) => metersOf(rows, look, limits, most);
const texts = (look: MeterLook) => drawn(look).meters.map(({ name, text, share }) => [name, text, share]);

describe("meters of a table", () => {
  test("one a row and numeric column; a column that gives an end of the scale is no value", () => {
    expect(drawn({}).meters.map(({ name }) => name)).toEqual([
      "archive used",
      "archive capacity",
      "work used",
      "work capacity",
      "tapes used",
      "tapes capacity",
    ]);
    expect(texts({ max: { column: "capacity" } })).toEqual([
      ["archive", "75", 0.75],
      ["work", "10", 0.25],
      ["tapes", "no value", null],
    ]);
  });
  test("which values stand, and how the scale was made, in words", () => {
    expect(drawn({ max: { column: "capacity" } })).toMatchObject({
      shown: "all rows",
      scale: "0 to each one's capacity",
      problem: null,
    });
    expect(drawn({ max: 200 }, [], 2)).toMatchObject({
      shown: "all rows, first 2 of 6",
      scale: "0 to 200 GB, as it was set",
    });
    expect(metersOf(figuresOfTable(volumes, "max"), { max: { column: "capacity" } }).shown).toBe("highest");
  });
  test.each([
    ["last", 10],
    ["first", 75],
    ["min", 10],
    ["max", 75],
    ["mean", 42.5],
    ["sum", 85],
  ] as const)("all rows brought to their %s: %d, an empty cell is no value", (shows, expected) =>
    expect(metersOf(figuresOfTable(volumes, shows), { max: 100 }).meters[0]?.value).toBe(expected),
  );
  test("automatic: from 0 to a round number at or above the greatest of all columns with the unit", () => {
    const made = drawn({});
    expect(made.meters.every(({ min, max }) => min === 0 && max === 100)).toBe(true);
    expect(made.scale).toBe("0 to 100 GB, from the data");
  });
  test("a value outside a fixed scale stays at its end and says so", () => {
    const [archive, , work] = drawn({ min: 20, max: 50 }).meters;
    expect([archive?.share, archive?.beyond, work?.share, work?.beyond]).toEqual([1, true, 0, true]);
  });
  test("orders: as given, by value, by name; what has no value comes last", () => {
    const names = (order: NonNullable<MeterLook["order"]>) =>
      drawn({ max: { column: "capacity" }, order }).meters.map(({ name }) => name);
    expect(names("given")).toEqual(["archive", "work", "tapes"]);
    expect(names("lowest")).toEqual(["work", "archive", "tapes"]);
    expect(names("highest")).toEqual(["archive", "work", "tapes"]);
    expect(names("name")).toEqual(["archive", "tapes", "work"]);
  });
  test("decimals, unit and the text for no value", () =>
    expect(
      drawn({ max: 100, decimals: 2, unit: "%", none: "away" })
        .meters.filter(({ name }) => name.endsWith("used"))
        .map(({ text, unit }) => `${text} ${unit}`.trim()),
    ).toEqual(["75.00 %", "10.00 %", "away"]));
  test.each<[MeterLook, RegExp]>([
    [{ max: { column: "size" } }, /no column or sentence "size" .* there are used, capacity/],
    [{ min: { column: "used" }, max: { column: "capacity" } }, /Every column gives an end of the scale/],
    [{ min: 5, max: 5 }, /The scale of archive used has no length: it begins at 5 and ends at 5/],
  ])("%j is told what is wrong instead of being drawn", (look, problem) => {
    expect(drawn(look).problem).toMatch(problem);
    expect(drawn(look).meters).toEqual([]);
  });
  test("a table without numbers says so", () =>
    expect(metersOf(figuresOfTable({ columns: [{ name: "a", kind: "text" }], rows: [["x"]] }, "rows")).problem).toMatch(
      /no numbers/,
    ));
});

describe("meters of lines", () => {
  test("one value alone without bounds asks for them; a line that has moved gives a scale", () => {
    expect(metersOf(figuresOfLines([line("hive", [5])], "last", nameOf)).problem).toMatch(
      /One value alone has no scale/,
    );
    expect(metersOf(figuresOfLines([line("hive", [5])], "last", nameOf), { max: 10 })).toMatchObject({
      problem: null,
      meters: [{ share: 0.5 }],
    });
    expect(metersOf(figuresOfLines([line("hive", [2, 5])], "last", nameOf)).meters[0]).toMatchObject({
      min: 0,
      share: expect.closeTo(5 / 6, 1),
    });
  });
  test("a share in per cent has 0 to 100, unless it goes beyond", () => {
    expect(metersOf(figuresOfLines([line("hive", [40], "%")], "last", nameOf))).toMatchObject({
      scale: "0 to 100 %, as it is a share",
      meters: [{ share: 0.4 }],
    });
    expect(
      metersOf(figuresOfLines([line("hive", [40, 130], "%")], "last", nameOf)).meters[0]?.max,
    ).toBeGreaterThanOrEqual(130);
  });
  test("values below 0 take the scale below", () =>
    expect(metersOf(figuresOfLines([line("mast", [-12, -3], "Cel")], "last", nameOf)).meters[0]).toMatchObject({
      max: 0,
    }));
  test("a line without any value stands with the text for it, beside others", () =>
    expect(
      metersOf(figuresOfLines([line("hive", [4, 8]), line("mast", [null])], "last", nameOf)).meters.map(
        ({ name, text, share }) => [name, text, share],
      ),
    ).toEqual([
      ["hive", "8", 0.8],
      ["mast", "no value", null],
    ]));
  test("capacity by another sentence: matched by common tags, one for a machine serves all of its volumes", () => {
    const used = [
      { ...line("vault", [30]), tags: { machine: "vault", pool: "a" } },
      { ...line("vault", [10]), tags: { machine: "vault", pool: "b" } },
    ];
    const size = [{ ...line("vault", [40]), of: "size" }];
    expect(
      metersOf(
        figuresOfLines([...used, ...size], "last", ({ tags }) => tags["pool"] ?? ""),
        { max: { column: "size" } },
      ).meters.map(({ name, share }) => [name, share]),
    ).toEqual([
      ["a", 0.75],
      ["b", 0.25],
    ]);
  });
});

describe("limits on meters", () => {
  const limits: readonly TileLimit[] = [
    { at: 70, compare: "above", severity: "notice" },
    { at: 90, compare: "above", severity: "urgent" },
    { at: 5, compare: "below", severity: "urgent" },
    { at: 300, compare: "above", severity: "urgent" },
  ];
  const passed = (value: number) =>
    metersOf(figuresOfLines([line("hive", [value], "%")], "last", nameOf), {}, limits).meters[0]?.passed;
  test("stand as notches where they lie on the scale", () =>
    expect(
      metersOf(figuresOfLines([line("hive", [50], "%")], "last", nameOf), {}, limits).meters[0]?.notches.map(
        ({ share, severity, text }) => [share, severity, text],
      ),
    ).toEqual([
      [0.7, "notice", "70"],
      [0.9, "urgent", "90"],
      [0.05, "urgent", "5"],
    ]));
  test.each([
    [50, null],
    [70, null],
    [70.1, "notice"],
    [95, "urgent"],
    [4.9, "urgent"],
    [5, null],
  ] as const)("%d passes %s: equal to a limit is not past it", (value, severity) =>
    expect(passed(value)).toBe(severity),
  );
});

test("ticks stand inside the scale, its end is told where none is near", () => {
  const [one] = metersOf(
    figuresOfTable(
      {
        columns: [
          { name: "used", kind: "number", unit: "By" },
          { name: "size", kind: "number", unit: "By" },
        ],
        rows: [[2 ** 30, 913 * 2 ** 30]],
      },
      "rows",
    ),
    { max: { column: "size" } },
  ).meters;
  expect(one?.ticks.map(({ text }) => text)).toEqual(["0", "512", "913"]);
  expect(one?.ticks.every(({ share }) => share >= 0 && share <= 1)).toBe(true);
});
