import { UcumLhcUtils } from "@lhncbc/ucum-lhc";
import * as conventions from "@opentelemetry/semantic-conventions/incubating";
import { describe, expect, test } from "vitest";
import { catalogue, counterInfo, naturalReduction } from "./catalogue.ts";
import { seriesKey } from "./series-key.ts";

/** Names of ours for what the OpenTelemetry semantic conventions have no metric for. */
const ownNames = [
  "system.cpu.core.time",
  "system.cpu.load_average",
  "system.network.virtual.io",
  "system.memory.linux.activity",
  "system.memory.linux.mapped",
  "system.memory.linux.dirty",
  "system.memory.linux.writeback",
  "system.memory.linux.committed",
  "system.paging.io",
  "system.disk.weighted_io_time",
  "system.disk.pending_operations",
  "system.filesystem.inodes",
  "system.pressure.stalled_time",
  "container.cpu.throttled_time",
  "container.memory.limit",
  "container.process.count",
  "guest.state.running",
  "guest.cpu.time",
  "guest.cpu.count",
  "guest.memory.limit",
  "guest.memory.usage",
  "guest.memory.resident",
  "guest.network.io",
  "guest.disk.io",
  "storage.pool.limit",
  "storage.pool.usage",
  "storage.pool.healthy",
  "storage.pool.trouble",
  "system.network.protocol.io",
  "storage.array.trouble",
  "drive.trouble",
  "drive.healthy",
  "drive.power_on_time",
  "container.count",
  "container.disk.operations",
  "container.healthy",
  "container.image.count",
  "container.memory.activity",
  "container.memory.cache",
  "container.network.packet.count",
  "container.restarts",
  "container.state.running",
  "drive.bad_sectors",
  "drive.media_errors",
  "drive.wear",
  "drive.written",
  "guest.disk.operations",
  "guest.disk.usage",
  "guest.disk.limit",
  "hw.battery.healthy",
  "hw.current",
  "hw.frequency",
  "hw.healthy",
  "hw.humidity",
  "hw.power.limit",
  "hw.power.own_mean",
  "hw.powered",
  "storage.array.healthy",
  "storage.array.limit",
  "storage.array.members",
  "storage.array.sync",
  "nubrel.collector.cpu.time",
  "nubrel.collector.speed",
  "nubrel.cpu.time",
  "nubrel.database.size",
  "nubrel.month.cost",
  "nubrel.month.expected_cost",
  "nubrel.month.budget_share",
  "nubrel.memory.usage",
  "nubrel.samples.refused",
  "nubrel.samples.taken",
  "nubrel.samples.waiting",
  "nubrel.series.count",
  "storage.dataset.usage",
  "storage.device.errors",
  "storage.pool.fragmentation",
  "system.user.count",
  "ups.alarm.count",
  "ups.input.failures",
  "ups.load",
  "ups.on_battery",
];
const conventional = new Set(
  Object.entries(conventions)
    .filter(([key]) => key.startsWith("METRIC_"))
    .map(([, name]) => name as string),
);

describe("names: OpenTelemetry semantic conventions (package @opentelemetry/semantic-conventions)", () => {
  test.each([...catalogue.keys()].filter((name) => !ownNames.includes(name)))("%s is a metric there", (name) => {
    expect(conventional.has(name)).toBe(true);
  });
  test.each(ownNames)("%s is ours because they have none", (name) => {
    expect(catalogue.has(name)).toBe(true);
    expect(conventional.has(name)).toBe(false);
  });
});

test.each([...catalogue.values()])(
  "$name has a valid UCUM unit, $unit (package @lhncbc/ucum-lhc)",
  ({ unit, words, explains }) => {
    expect(UcumLhcUtils.getInstance().validateUnitString(unit).status).toBe("valid");
    expect(words.length * explains.length).toBeGreaterThan(0);
  },
);

test.each([
  ["system.cpu.time", { as: "rate", ofEvery: "mean", combine: "sum" }],
  ["system.cpu.load_average", { as: "value", ofEvery: "mean", combine: "mean" }],
  ["hw.temperature", { as: "value", ofEvery: "max", combine: "max" }],
  ["drive.healthy", { as: "value", ofEvery: "min", combine: "min" }],
  ["system.memory.usage", { as: "value", ofEvery: "mean", combine: "sum" }],
])("%s is naturally reduced as %j", (name, reduction) => {
  expect(naturalReduction(counterInfo(name))).toEqual(reduction);
});

test("every limit to begin with says where it comes from; a share's lies between none and all", () => {
  const limited = [...catalogue.values()].filter(({ limit }) => limit);
  expect(limited.length).toBeGreaterThan(5);
  for (const { kind, unit, limit } of limited) {
    expect(limit?.from).toMatch(/^(common practice: |by its meaning$)/);
    if (kind === "total" && unit === "s") expect(limit?.value).toSatisfy((share: number) => share > 0 && share <= 1);
  }
});

test("a counter that nobody explained is refused by name", () => {
  expect(() => counterInfo("system.cpu.tmie")).toThrow('counter "system.cpu.tmie" is not in the catalogue');
});

test("a series' text does not depend on the order of its tags and keeps odd characters apart", () => {
  expect(seriesKey("a.b", { z: "1", c: 'x"y' })).toBe('a.b{c="x\\"y",z="1"}');
  expect(seriesKey("a.b", { c: 'x"y', z: "1" })).toBe(seriesKey("a.b", { z: "1", c: 'x"y' }));
  expect(seriesKey("a", { b: '1",c="2' })).not.toBe(seriesKey("a", { b: "1", c: "2" }));
});
