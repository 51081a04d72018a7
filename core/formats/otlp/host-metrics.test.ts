import { describe, expect, test } from "vitest";
import { hostPoint } from "./host-metrics.ts";
import { OtlpReader } from "./otlp-reader.ts";

const nothing = { disks: new Set<string>(), interfaces: new Set<string>() };
// Attribute names: OpenTelemetry semantic conventions 1.45 (system, cpu, disk and network registries), those before
// 1.24, and what its collector's host receiver sends.
test.each([
  ["system.cpu.time", { "cpu.mode": "idle", "cpu.logical_number": "3" }, "system.cpu.time", { mode: "idle", cpu: "3" }],
  [
    "system.cpu.time",
    { "system.cpu.state": "user", "system.cpu.logical_number": "0" },
    "system.cpu.time",
    { mode: "user", cpu: "0" },
  ],
  ["system.cpu.time", { state: "wait", cpu: "cpu1" }, "system.cpu.time", { mode: "iowait", cpu: "1" }],
  ["system.cpu.utilization", { "cpu.mode": "idle" }, "system.cpu.utilization.by_mode", { mode: "idle" }],
  ["system.cpu.utilization", { cpu: "0" }, "system.cpu.utilization", { cpu: "0" }],
  ["system.cpu.load_average.5m", {}, "system.cpu.load_average", { over: "5m" }],
  ["system.memory.usage", { "system.memory.state": "used" }, "system.memory.usage", { state: "used" }],
  ["system.memory.usage", { state: "buffered" }, "system.memory.usage", { state: "buffers" }],
  [
    "system.network.io",
    { "system.device": "eth0", "network.io.direction": "receive" },
    "system.network.io",
    { interface: "eth0", direction: "receive" },
  ],
  [
    "system.network.io",
    { device: "eth0", direction: "transmit" },
    "system.network.io",
    { interface: "eth0", direction: "transmit" },
  ],
  [
    "system.network.io",
    { "network.interface.name": "lo", "network.io.direction": "receive" },
    "system.network.virtual.io",
    { interface: "lo", direction: "receive" },
  ],
  ["system.network.dropped", { "system.device": "eth0" }, "system.network.packet.dropped", { interface: "eth0" }],
  [
    "system.network.packets",
    { device: "eth0", direction: "receive" },
    "system.network.packet.count",
    { interface: "eth0", direction: "receive" },
  ],
  [
    "system.disk.io",
    { "system.device": "sda", "disk.io.direction": "read" },
    "system.disk.io",
    { device: "sda", direction: "read" },
  ],
  [
    "system.filesystem.usage",
    {
      "system.device": "/dev/sda1",
      "system.filesystem.mountpoint": "/",
      "system.filesystem.state": "free",
      "system.filesystem.mode": "rw",
    },
    "system.filesystem.usage",
    { device: "/dev/sda1", mountpoint: "/", state: "free", mode: "rw" },
  ],
  [
    "system.paging.operations",
    { "system.paging.type": "major", "system.paging.direction": "in" },
    "system.paging.operations",
    { type: "major", direction: "in" },
  ],
  ["system.processes.count", { status: "sleeping" }, "system.process.count", { state: "sleeping" }],
  ["process.cpu.time", { "process.cpu.state": "user" }, "process.cpu.time", { mode: "user" }],
] as const)("%s %j is %s %j", (name, attributes, counter, tags) => {
  expect(hostPoint(name, attributes, nothing)).toEqual({ counter, tags });
});

test("what others carry is not added to what carries it", () => {
  const context = {
    disks: new Set(["nvme0n1", "nvme0n1p1", "sda", "sda2", "dm-0"]),
    interfaces: new Set(["eth0", "docker0", "bond0"]),
  };
  const leave = (device: string) => hostPoint("system.disk.io", { device }, context).leave;
  expect(["nvme0n1", "sda", "nvme0n1p1", "sda2", "dm-0"].map(leave)).toEqual([
    undefined,
    undefined,
    expect.stringContaining("a part of a disk"),
    expect.stringContaining("a part of a disk"),
    expect.stringContaining("stands on another"),
  ]);
  // where nobody tells of the whole
  expect(hostPoint("system.disk.io", { device: "sda2" }, nothing).leave).toBeUndefined();
  expect(hostPoint("system.network.io", { device: "docker0" }, context).counter).toBe("system.network.virtual.io");
  expect(
    hostPoint("system.network.io", { device: "bond0" }, { ...nothing, interfaces: new Set(["bond0"]) }).counter,
  ).toBe("system.network.io");
});

describe("a request", () => {
  const point = (value: number, attributes: Readonly<Record<string, string>>) => ({
    asDouble: value,
    timeUnixNano: "1795449600000000000",
    attributes: Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } })),
  });
  const read = (metrics: readonly object[], attributes: Readonly<Record<string, string>> = {}) => {
    const reader = new OtlpReader();
    const { page } = reader.read({
      resourceMetrics: [
        {
          resource: {
            attributes: Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } })),
          },
          scopeMetrics: [{ metrics: metrics as never }],
        },
      ],
    });
    return Array.from({ length: page.length }, (_, i) => [
      reader.series[page.which[i] as number]?.counter,
      reader.series[page.which[i] as number]?.unit,
      reader.series[page.which[i] as number]?.tags,
      page.value[i],
    ]);
  };
  const usage = {
    name: "system.memory.usage",
    gauge: { dataPoints: [point(3, { "system.memory.state": "used" }), point(5, { "system.memory.state": "free" })] },
  };
  test("memory is as large as its states together, where its size is not told; a unit that is not told is the catalogue's", () => {
    expect(read([usage])).toEqual([
      ["system.memory.usage", "By", { state: "used" }, 3],
      ["system.memory.usage", "By", { state: "free" }, 5],
      ["system.memory.limit", "By", {}, 8],
    ]);
    expect(
      read([usage, { name: "system.memory.limit", unit: "By", gauge: { dataPoints: [point(16, {})] } }]).filter(
        ([counter]) => counter === "system.memory.limit",
      ),
    ).toEqual([["system.memory.limit", "By", {}, 16]]);
  });
  test("a process that nobody names is the sender, by its service's name where it has one", () => {
    const own = { name: "process.memory.usage", unit: "By", gauge: { dataPoints: [point(7, {})] } };
    expect(read([own])).toEqual([["process.memory.usage", "By", { process: "the sender itself" }, 7]]);
    expect(read([own], { "service.name": "booking" })).toEqual([
      ["process.memory.usage", "By", { process: "booking", "service.name": "booking" }, 7],
    ]);
  });
  test("a process is told of by its resource, and other counters are left as they are", () => {
    expect(
      read(
        [
          { name: "process.memory.usage", unit: "By", gauge: { dataPoints: [point(7, {})] } },
          { name: "queue.length", gauge: { dataPoints: [point(1, { state: "x", device: "y" })] } },
        ],
        { "process.executable.name": "playout", "process.pid": "42" },
      ),
    ).toEqual([
      ["process.memory.usage", "By", { process: "playout", pid: "42" }, 7],
      ["queue.length", "1", { state: "x", device: "y" }, 1],
    ]);
  });
});
