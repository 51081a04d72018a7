import { describe, expect, test } from "vitest";
import { factorOf, type MeteringSeries, metersOf, outletsOf } from "./meters.ts";

let next = 1;
const series = (counter: string, tags: Record<string, string>, unit = counter.includes("energy") ? "J" : "W") =>
  ({ id: next++, counter, tags, unit, kind: unit === "W" ? "level" : "total" }) as MeteringSeries;
const told = (all: readonly MeteringSeries[]) =>
  metersOf(all).meters.map(({ of, isPart, series: own }) => [
    of,
    own.map(({ counter, tags }) => `${counter} ${tags["sensor"] ?? tags["zone"] ?? ""}`.trim()),
    ...(isPart ? ["part"] : []),
  ]);

describe("what measures a machine", () => {
  test("its counter of energy before its power, and the processor alone last", () =>
    expect(
      told([
        series("hw.energy", { zone: "package-0" }),
        series("hw.energy", { zone: "package-1" }),
        series("hw.energy", { zone: "dram" }),
        series("hw.power", { sensor: "PSU1 input" }),
        series("hw.power", { sensor: "PSU2 input" }),
        series("hw.host.power", { sensor: "PSU1 input" }),
        series("hw.energy", { sensor: "Environment" }),
      ]),
    ).toEqual([
      ["energy", ["hw.energy Environment"]],
      ["power", ["hw.host.power PSU1 input"]],
      ["power", ["hw.power PSU1 input", "hw.power PSU2 input"]],
      ["energy", ["hw.energy package-0", "hw.energy package-1"], "part"],
    ]));
  test("the kernel's counter of the platform is the machine, its packages are not added to it", () =>
    expect(told([series("hw.energy", { zone: "package-0" }), series("hw.energy", { zone: "psys" })])).toEqual([
      ["energy", ["hw.energy psys"]],
      ["energy", ["hw.energy package-0"], "part"],
    ]));
  test("nothing measures what has no meter", () => expect(told([])).toEqual([]));
});

test("outlets are things of their own, in the order of their numbers, and no part of the device", () => {
  const all = [
    series("hw.power", { sensor: "input" }),
    series("hw.energy", { outlet: "10" }, "kW.h"),
    series("hw.power", { outlet: "2", sensor: "2" }),
    series("hw.power", { outlet: "10", sensor: "10" }),
  ];
  expect(told(all)).toEqual([["power", ["hw.power input"]]]);
  expect([...outletsOf(all)].map(([name, { meters }]) => [name, meters.map(({ of }) => of)])).toEqual([
    ["2", ["power"]],
    ["10", ["energy", "power"]],
  ]);
});

test.each([
  ["kW", "power", 1000],
  ["mW", "power", 0.001],
  ["J", "energy", 1],
  ["kJ", "energy", 1000],
  ["kW.h", "energy", 3.6e6],
  ["W.h", "energy", 3600],
  ["Cel", "power", undefined],
  ["W", "energy", undefined],
] as const)("a value in %s of %s is multiplied by %s (SI; NIST SP 811 for the hour)", (unit, of, factor) =>
  expect(factorOf(series("hw.power", {}, unit), of)).toBe(factor),
);
