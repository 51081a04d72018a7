import { UcumLhcUtils } from "@lhncbc/ucum-lhc";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { axisFor } from "./axis.ts";
import { figures, present, presentSpan, scaleFor } from "./present.ts";
import { rateUnit } from "./rate-unit.ts";
import { readUnit } from "./ucum.ts";

describe("values as shown: IEC 80000-13 prefixes for amounts of memory, SI for rates", () => {
  test.each([
    [0, "By", "0", "B"],
    [1023, "By", "1023", "B"],
    [1024, "By", "1", "KiB"],
    [1536 * 1024 ** 2, "By", "1.5", "GiB"],
    [1500, "By/s", "1.5", "kB/s"],
    [2_530_000, "bit/s", "2.53", "Mb/s"],
    [12.345, "%", "12.3", "%"],
    [99.96, "%", "99.9", "%"], // never all of it unless it is
    [100, "%", "100", "%"],
    [999_700, "By/s", "1", "MB/s"], // never 1000 kB/s
    [1023.7, "By", "1", "KiB"],
    [59.97, "s", "1", "min"],
    [0.99996, "s", "1", "s"], // never 1000 ms
    [3599.9, "s", "1", "h"],
    [16, "MiBy", "16", "MiB"],
    [4, "GBy", "4", "GB"],
    [1500, "GBy", "1.5", "TB"],
    [250, "us", "250", "µs"],
    [2_500_000, "ns", "2.5", "ms"],
    [1.5, "h", "1.5", "h"],
    [0.4, "kW.h", "400", "Wh"],
    [800, "VA", "800", "VA"], // no watts
    [1.2, "kVA", "1.2", "kVA"],
    [5, "Mibit/s", "5.24", "Mb/s"],
    [0.0123, "s", "12.3", "ms"],
    [90, "s", "1.5", "min"],
    [46.5, "Cel", "46.5", "°C"],
    [149, "W", "149", "W"],
    [3576, "W.h", "3.58", "kWh"],
    [1234, "{packet}/s", "1.23", "thousand/s"],
    [-5, "Cel", "-5", "°C"],
  ])("%d %s is %s %s", (value, unit, text, shownUnit) =>
    expect(present(value, unit)).toEqual({ text, unit: shownUnit }),
  );
  test("nothing is an en dash", () => expect(present(null, "%")).toEqual({ text: "–", unit: "" }));
  test.each([
    [0.00001, "0"],
    [0.1234, "0.123"],
    [0.9999, "1"],
    [9.999, "10"],
    [123.4, "123"],
    [1e6, "1000000"],
  ])("%d has the figures %s", (value, text) => expect(figures(value)).toBe(text));
});

test.each([
  [0, "0 s"],
  [59_400, "59 s"],
  [61_000, "1 min 1 s"],
  [6_960_000, "1 h 56 min"],
  [3_600_000, "1 h"],
  [788_400_000, "9 d 3 h"],
])("%d ms are %s", (ms, text) => expect(presentSpan(ms)).toBe(text));

test("rates: seconds a second are a ratio", () =>
  expect(["By", "s", "1", "{packet}"].map(rateUnit)).toEqual(["By/s", "1", "/s", "{packet}/s"]));

describe("axes", () => {
  test.each([
    ["%", 0, 100, 100, [0, 50, 100], ["0", "50", "100"], "%"],
    ["By", 0, 8 * 1024 ** 3, undefined, [0, 4 * 1024 ** 3, 8 * 1024 ** 3], ["0", "4", "8"], "GiB"],
    ["bit/s", 0, 2.4e6, undefined, [0, 1e6, 2e6, 3e6], ["0", "1", "2", "3"], "Mb/s"],
    ["Cel", -12, 30, undefined, [-20, 0, 20, 40], ["-20", "0", "20", "40"], "°C"],
    ["1", 0, 0, undefined, [0, 0.5, 1], ["0", "0.5", "1"], ""],
  ] as const)("%s from %d to %d", (unit, min, max, ceiling, ticks, labels, shown) => {
    const axis = axisFor(unit, min, max, ceiling);
    expect(axis.ticks).toHaveLength(ticks.length);
    for (const [i, tick] of axis.ticks.entries()) expect(tick).toBeCloseTo(ticks[i] as number, 6);
    expect(axis.labels).toEqual(labels);
    expect(axis.unit).toBe(shown);
  });
  test("what would end at 1024 MiB ends at 1 GiB, and what would at 1000 k at 1 M", () => {
    expect(axisFor("By", 0, 972 * 1024 ** 2)).toMatchObject({ unit: "GiB", labels: ["0", "0.5", "1"] });
    expect(axisFor("bit/s", 0, 990_000)).toMatchObject({ unit: "Mb/s", labels: ["0", "0.5", "1"] });
    expect(axisFor("s", 0, 58)).toMatchObject({ unit: "min", labels: ["0", "0.5", "1"] });
    expect(axisFor("s", 0, 40.1)).toMatchObject({ unit: "min", labels: ["0", "0.5", "1"] });
  });
  test("hold what they are for, with two to six ticks and no label twice (property)", () => {
    fc.assert(
      fc.property(
        fc.constantFrom("By", "By/s", "bit/s", "1", "Cel", "s", "/s"),
        fc.double({ min: 1e-3, max: 1e15, noNaN: true }),
        (unit, max) => {
          const axis = axisFor(unit, 0, max);
          expect(axis.min).toBe(0);
          expect(axis.max).toBeGreaterThanOrEqual(max * (1 - 1e-9));
          expect(axis.ticks.length).toBeGreaterThanOrEqual(2);
          expect(axis.ticks.length).toBeLessThanOrEqual(6);
          expect(new Set(axis.labels).size).toBe(axis.labels.length);
          // Its labels and the values beside it are counted in one prefix.
          expect(scaleFor(unit, axis.max).unit).toBe(axis.unit);
        },
      ),
    );
  });
});

describe("UCUM codes, read as the reference library reads them (@lhncbc/ucum-lhc)", () => {
  const library = UcumLhcUtils.getInstance();
  const amounts = ["By", "bit", "s", "g", "m", "A", "V", "W", "J", "Hz", "Pa", "K"];
  const codes = [
    ...amounts.flatMap((atom) => ["", "k", "M", "G", "m", "u", "n", "T", "p", "h"].map((prefix) => `${prefix}${atom}`)),
    ...["By", "bit"].flatMap((atom) => ["Ki", "Mi", "Gi", "Ti"].map((prefix) => `${prefix}${atom}`)),
    ...["By", "kBy", "MiBy", "bit", "Mbit", "{packet}", "1", "kJ", "mg"].flatMap((code) => [
      `${code}/s`,
      `${code}/min`,
      `${code}/h`,
      `${code}/d`,
    ]),
    ...[
      "min",
      "h",
      "d",
      "wk",
      "%",
      "[ppm]",
      "[in_i]",
      "[ft_i]",
      "W.h",
      "kW.h",
      "MW.h",
      "A.h",
      "mA.h",
      "V.A",
      "kV.A",
      "/s",
      "/min",
      "m/s2",
      "m2",
      "m3",
      "By.s",
      "g/m3",
      "W/m2",
      "{request}",
      "10.s",
      "l",
      "mL",
      "t",
      "Ohm",
      "kOhm",
      "lx",
      "mol",
      "rad",
      "deg",
      "bar",
      "mbar",
      "N",
      "uF",
    ],
  ];
  test("there are 200 of them and more", () => expect(new Set(codes).size).toBeGreaterThanOrEqual(200));
  test.each(codes)("%s", (code) => {
    const read = readUnit(code);
    expect(read, code).toBeDefined();
    const base = { VA: "V.A", L: "L", B: "B" }[read?.base ?? ""] ?? (read?.base as string);
    const { status, toVal } = library.convertUnitTo(code, 1, base);
    expect(status, `${code} to ${base}`).toBe("succeeded");
    expect((read?.factor as number) / (toVal as number)).toBeCloseTo(1, 9);
  });
  test.each(["", "furlongs", "By/", "/", "By//s", "By s", "{", "__proto__", "constructor", "a".repeat(5000)])(
    "%j is none, and is shown as it stands",
    (code) => {
      expect(readUnit(code)).toBeUndefined();
      expect(present(5, code).unit).toBe(code);
    },
  );
});
