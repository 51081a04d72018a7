import { describe, expect, test } from "vitest";
import { wrap32 } from "../../counters/counter.ts";
import { increases } from "../../series/increase.ts";
import { readingsOf } from "../testing/readings-of.ts";
import { interfacesModule } from "./interfaces-module.ts";
import { energyModule } from "./energy-module.ts";
import { hostModule } from "./host-module.ts";
import { readPicked } from "./picked-numbers.ts";
import { readSnmp } from "./read-snmp.ts";
import { snmpModules } from "./snmp-modules.ts";
import { sensorsModule } from "./sensors-module.ts";
import { SnmpTable } from "./snmp-table.ts";
import type { SnmpModule } from "./snmp-module.ts";
import { upsModule } from "./ups-module.ts";
import { compareOids, numberOf, snmpType, textOf, type VarBind } from "./var-bind.ts";
import { virtualMachinesModule } from "./virtual-machines-module.ts";

/** A table of columns: `{ column: { index: value } }`; text and numbers find their types. */
function tableOf(columns: Record<string, Record<string, number | string>>): SnmpTable {
  const table = new SnmpTable();
  for (const [column, rows] of Object.entries(columns))
    for (const [index, value] of Object.entries(rows))
      table.set(column, index, {
        oid: `${column}.${index}`,
        type: typeof value === "number" ? snmpType.gauge32 : snmpType.text,
        value: typeof value === "number" ? value : new TextEncoder().encode(value),
      });
  return table;
}
const read = (module: SnmpModule, columns: Record<string, Record<string, number | string>>) =>
  readingsOf((emit) => module.read(tableOf(columns), emit));
const ifEntry = "1.3.6.1.2.1.2.2.1";
const ifX = "1.3.6.1.2.1.31.1.1.1";

describe("interfaces (RFC 2863)", () => {
  const rows = (index: string, name: string, octets: number) => ({
    [`${ifEntry}.2`]: { [index]: `port ${name}` },
    [`${ifX}.1`]: { [index]: name },
    [`${ifEntry}.8`]: { [index]: 1 },
    [`${ifX}.6`]: { [index]: octets },
    [`${ifEntry}.10`]: { [index]: octets % 2 ** 32 },
  });
  test("a series stays the same when its row gets another index", () => {
    const before = read(interfacesModule, rows("2", "wan", 100));
    const after = read(interfacesModule, rows("7", "wan", 150));
    expect(Object.keys(after)).toEqual(Object.keys(before));
    expect(after["system.network.io{direction=receive,interface=wan}"]).toBe(150);
  });
  test("64 bits where they are, 32 where not; speeds over 4.3 Gbit/s come from the column of millions (§3.1.7)", () => {
    expect(
      read(interfacesModule, {
        ...rows("1", "wan", 5e12),
        [`${ifX}.15`]: { 1: 10_000 },
        [`${ifEntry}.5`]: { 1: 4_294_967_295 },
      }),
    ).toMatchObject({
      "system.network.io{direction=receive,interface=wan}": 5e12,
      "hw.network.bandwidth.limit{interface=wan}": 1.25e9,
    });
    expect(
      read(interfacesModule, {
        [`${ifEntry}.2`]: { 3: "eth0" },
        [`${ifEntry}.10`]: { 3: 77 },
        [`${ifEntry}.5`]: { 3: 100_000_000 },
      }),
    ).toEqual({
      "system.network.io{direction=receive,interface=eth0}": 77,
      "hw.network.bandwidth.limit{interface=eth0}": 12.5e6,
    });
  });
  test("two rows with one name are told apart by their index; the loopback is left", () => {
    expect(
      read(interfacesModule, {
        [`${ifEntry}.2`]: { 1: "lan", 2: "lan", 9: "lo" },
        [`${ifEntry}.3`]: { 1: 6, 2: 6, 9: 24 },
        [`${ifEntry}.10`]: { 1: 1, 2: 2, 9: 3 },
      }),
    ).toEqual({
      "system.network.io{direction=receive,interface=lan (1)}": 1,
      "system.network.io{direction=receive,interface=lan (2)}": 2,
    });
  });
  test.each([
    ["100 Mbit/s", 12.5e6, 343.6],
    ["1 Gbit/s", 125e6, 34.36],
  ])(
    "a 32-bit counter at %s wraps after the time that §3.1.6 gives, and the increase goes on through it",
    (_speed, bytesPerSecond, wrapsAfterSeconds) => {
      expect(2 ** 32 / bytesPerSecond).toBeCloseTo(wrapsAfterSeconds, 1);
      const every = wrapsAfterSeconds / 10;
      const timeMs = Float64Array.from({ length: 25 }, (_, i) => i * every * 1000);
      const value = timeMs.map((ms) => Math.floor((ms / 1000) * bytesPerSecond) % 2 ** 32);
      for (const increase of increases({ timeMs, value }, wrap32))
        expect(increase).toBeCloseTo(every * bytesPerSecond, -2);
    },
  );
  test("a device that is restarted counts from 0: no increase is made up", () => {
    const value = Float64Array.from([1000, 2000, 3000, 50, 1050]);
    expect([...increases({ timeMs: Float64Array.from([0, 1, 2, 3, 4]), value })]).toEqual([1000, 1000, 50, 1000]);
  });
});

describe("host resources (RFC 2790)", () => {
  const entry = "1.3.6.1.2.1.25.2.3.1";
  const type = (n: number) => `1.3.6.1.2.1.25.2.1.${n}`;
  test("cache and buffers are taken out of what Linux agents call used; network filesystems are left", () => {
    expect(
      read(hostModule, {
        [`${entry}.2`]: { 1: type(2), 6: type(1), 7: type(1), 10: type(3), 31: type(4), 40: type(10) },
        [`${entry}.3`]: {
          1: "Physical memory",
          6: "Memory buffers",
          7: "Cached memory",
          10: "Swap space",
          31: "/",
          40: "/mnt/far",
        },
        [`${entry}.4`]: { 1: 1024, 6: 1024, 7: 1024, 10: 1024, 31: 4096, 40: 4096 },
        [`${entry}.5`]: { 1: 1000, 6: 1000, 7: 400, 10: 50, 31: -1, 40: 9 },
        [`${entry}.6`]: { 1: 900, 6: 100, 7: 400, 10: 20, 31: 100, 40: 9 },
      }),
    ).toEqual({
      "system.memory.limit{}": 1_024_000,
      "system.memory.usage{state=used}": 409_600,
      "system.memory.usage{state=cached}": 409_600,
      "system.memory.usage{state=buffers}": 102_400,
      "system.memory.usage{state=free}": 102_400,
      "system.memory.usage{state=shared}": 0,
      "system.paging.usage{state=used}": 20_480,
      "system.paging.usage{state=free}": 30_720,
      // 2^32 − 1 blocks: the size has run over into its sign
      "system.filesystem.limit{mountpoint=/}": 4_294_967_295 * 4096,
      "system.filesystem.usage{mountpoint=/,state=used}": 409_600,
      "system.filesystem.usage{mountpoint=/,state=free}": 4_294_967_195 * 4096,
    });
  });
});

test("what an agent says is available decides what is used; without cache of its own a device has used and free alone (RFC 2790, net-snmp's rows)", () => {
  const entry = "1.3.6.1.2.1.25.2.3.1";
  const type = (n: number) => `1.3.6.1.2.1.25.2.1.${n}`;
  const memory = (rows: Readonly<Record<string, readonly [size: number, used: number]>>) => {
    const column = (of: (row: readonly [string, readonly [number, number]], i: number) => string | number) =>
      Object.fromEntries(Object.entries(rows).map((row, i) => [i + 1, of(row, i)]));
    const found = read(hostModule, {
      [`${entry}.2`]: column((_, i) => type(i === 0 ? 2 : 1)),
      [`${entry}.3`]: column(([name]) => name),
      [`${entry}.4`]: column(() => 1),
      [`${entry}.5`]: column(([, [size]]) => size),
      [`${entry}.6`]: column(([, [, used]]) => used),
    });
    return Object.fromEntries(
      Object.entries(found).map(([key, value]) => [/state=(\w+)/.exec(key)?.[1] ?? "size", value]),
    );
  };
  expect(
    memory({
      "Physical memory": [1000, 900],
      "Memory buffers": [1000, 100],
      "Cached memory": [300, 300],
      "Shared memory": [50, 50],
      "Available memory": [420, 0],
    }),
  ).toEqual({ size: 1000, used: 530, shared: 50, buffers: 100, cached: 220, free: 100 });
  // Without that row it is what is free, cached and in buffers, less what is shared.
  expect(
    memory({
      "Physical memory": [1000, 900],
      "Memory buffers": [1000, 100],
      "Cached memory": [300, 300],
      "Shared memory": [50, 50],
    }),
  ).toEqual({ size: 1000, used: 500, shared: 50, buffers: 100, cached: 250, free: 100 });
  expect(memory({ RAM: [1000, 700] })).toEqual({ size: 1000, used: 700, free: 300 });
});

test("an interface without a connector carries what others carry (ifConnectorPresent, RFC 2863); where none has one, all are the network", () => {
  const [entry, extended] = ["1.3.6.1.2.1.2.2.1", "1.3.6.1.2.1.31.1.1.1"];
  const counters = (connectors: Readonly<Record<number, number>>) =>
    Object.keys(
      read(interfacesModule, {
        [`${entry}.2`]: { 1: "a", 2: "b" },
        [`${entry}.3`]: { 1: 6, 2: 6 },
        [`${extended}.6`]: { 1: 10, 2: 20 },
        [`${extended}.17`]: connectors,
      }),
    ).map((key) => key.split("{")[0]);
  expect(counters({ 1: 1, 2: 2 })).toEqual(["system.network.io", "system.network.virtual.io"]);
  expect(counters({ 1: 1, 2: 1 })).toEqual(["system.network.io", "system.network.io"]);
  expect(counters({ 1: 2, 2: 2 })).toEqual(["system.network.io", "system.network.io"]);
});

test("what bridges and tunnels carry is counted apart (RFC 2863, IANAifType): 1 GB that goes through a bridge is not two", () => {
  const [entry, extended] = ["1.3.6.1.2.1.2.2.1", "1.3.6.1.2.1.31.1.1.1"];
  const found = read(interfacesModule, {
    [`${entry}.2`]: { 1: "lan", 2: "bridge", 3: "tunnel" },
    [`${entry}.3`]: { 1: 6, 2: 209, 3: 131 },
    [`${extended}.6`]: { 1: 1e9, 2: 1e9, 3: 4e8 },
  });
  expect(found).toEqual({
    "system.network.io{direction=receive,interface=lan}": 1e9,
    "system.network.virtual.io{direction=receive,interface=bridge}": 1e9,
    "system.network.virtual.io{direction=receive,interface=tunnel}": 4e8,
  });
});

describe("sensors (RFC 3433)", () => {
  const s = "1.3.6.1.2.1.99.1.1.1";
  test("scale and precision as in the module's own words: milli(8), 1 digit: 12045 is 1.2045 V", () => {
    expect(
      read(sensorsModule, {
        [`${s}.1`]: { 1: 4, 2: 8, 3: 10, 4: 6, 5: 8 },
        [`${s}.2`]: { 1: 8, 2: 9, 3: 9, 4: 10, 5: 9 },
        [`${s}.3`]: { 1: 1, 2: 1, 3: 0, 4: 2, 5: 0 },
        [`${s}.4`]: { 1: 12_045, 2: 425, 3: 4800, 4: 15, 5: 30 },
        [`${s}.5`]: { 1: 1, 2: 1, 3: 1, 4: 1, 5: 3 },
        "1.3.6.1.2.1.47.1.1.1.1.7": { 1: "core", 2: "inlet", 3: "fan", 4: "all", 5: "broken" },
      }),
    ).toEqual({
      "hw.voltage{sensor=core}": 1.2045,
      "hw.temperature{sensor=inlet}": 42.5,
      "hw.fan.speed{sensor=fan}": 4800,
      "hw.power{sensor=all}": 150,
    });
  });
});

test("power supplies (RFC 1628): tenths, minutes and words", () => {
  const u = "1.3.6.1.2.1.33.1";
  expect(
    read(upsModule, {
      [`${u}.2.1`]: { 0: 2 },
      [`${u}.2.3`]: { 0: 11 },
      [`${u}.2.4`]: { 0: 93 },
      [`${u}.2.5`]: { 0: 547 },
      [`${u}.4.1`]: { 0: 5 },
      [`${u}.3.3.1.2`]: { 1: 499 },
      [`${u}.3.3.1.3`]: { 1: 231 },
      [`${u}.4.4.1.4`]: { 1: 310 },
      [`${u}.4.4.1.5`]: { 1: 46 },
      [`${u}.4.4.1.2`]: { 1: 230 },
    }),
  ).toEqual({
    "hw.battery.healthy{}": 1,
    "ups.on_battery{}": 1,
    "hw.battery.time_left{}": 660,
    "hw.battery.charge{}": 0.93,
    "hw.voltage{sensor=battery}": 54.7,
    "hw.frequency{sensor=input}": 49.9,
    "hw.voltage{sensor=input}": 231,
    "hw.voltage{sensor=output}": 230,
    "hw.power{sensor=output}": 310,
    "ups.load{sensor=output}": 0.46,
  });
});

test("guests (RFC 7666): memory by its unit, time in microseconds, the host's side of an interface turned round", () => {
  const o = "1.3.6.1.2.1.236.1";
  expect(
    read(virtualMachinesModule, {
      [`${o}.4.1.2`]: { 4: "web", 9: "attic" },
      [`${o}.4.1.6`]: { 4: 4, 9: 11 },
      [`${o}.4.1.9`]: { 4: 2 },
      [`${o}.4.1.12`]: { 4: 1024 },
      [`${o}.4.1.13`]: { 4: 2048 },
      [`${o}.4.1.17`]: { 4: 5_500_000 },
      [`${o}.7.1.5`]: { "4.1": "vda" },
      [`${o}.7.1.15`]: { "4.1": 900 },
      [`${o}.8.1.2`]: { "4.1": 12 },
      [`${ifX}.6`]: { 12: 10 },
      [`${ifX}.10`]: { 12: 70 },
    }),
  ).toEqual({
    "guest.state.running{guest=web}": 1,
    "guest.state.running{guest=attic}": 0,
    "guest.cpu.count{guest=web}": 2,
    "guest.memory.limit{guest=web}": 2_097_152,
    "guest.cpu.time{guest=web}": 5.5,
    "guest.disk.io{device=vda,direction=read,guest=web}": 900,
    "guest.network.io{direction=receive,guest=web,interface=1}": 70,
    "guest.network.io{direction=transmit,guest=web,interface=1}": 10,
  });
});

describe("variables", () => {
  const bytes = (...all: number[]) => Uint8Array.from(all);
  test.each<[VarBind, number, string]>([
    [{ oid: "1.3", type: snmpType.timeTicks, value: 12_345 }, 123.45, "12345"],
    [{ oid: "1.3", type: snmpType.integer, value: -7 }, -7, "-7"],
    [{ oid: "1.3", type: snmpType.text, value: bytes(0x34, 0x32, 0) }, Number.NaN, "42"],
    [{ oid: "1.3", type: snmpType.text, value: bytes(0xe4, 0x62) }, Number.NaN, "e4 62"],
    [{ oid: "1.3", type: snmpType.text, value: bytes(0xc3, 0xa4) }, Number.NaN, "ä"],
    [{ oid: "1.3", type: snmpType.opaque, value: bytes(0x9f, 0x78, 4, 0x3f, 0xc0, 0, 0) }, 1.5, "9f 78 04 3f c0 00 00"],
  ])("%j", (bind, number, text) => {
    expect(numberOf(bind)).toBe(number);
    expect(textOf(bind)).toBe(text);
  });
  test("numbers are ordered by their pieces", () => {
    expect(["1.3.10", "1.3.9", "1.3.9.1", "1.3"].sort(compareOids)).toEqual(["1.3", "1.3.9", "1.3.9.1", "1.3.10"]);
  });
  test("a picked percentage stays a level, whatever is done to it; a counter becomes a total", () => {
    const table = new SnmpTable();
    table.set("1.3.6.1.9.1", "", { oid: "1.3.6.1.9.1", type: snmpType.gauge32, value: 42 });
    table.set("1.3.6.1.9.2", "1", { oid: "1.3.6.1.9.2.1", type: snmpType.counter64, value: 9 });
    const pick = { tags: {}, kind: "by type", unit: "1" } as const;
    expect(
      readPicked(table, [
        { ...pick, oid: "1.3.6.1.9.1", counter: "share", factor: 0.01 },
        { ...pick, oid: "1.3.6.1.9.2", counter: "n", factor: 60 },
      ]).readings,
    ).toEqual([
      { counter: "share", tags: {}, value: 0.42, unit: "1", kind: "level" },
      { counter: "n", tags: { index: "1" }, value: 540, unit: "1", kind: "total" },
    ]);
  });
  test("texts become numbers or states where a person says so; what is absent or stays a text is counted", () => {
    const table = tableOf({
      "1.3.6.1.9.3": { 1: "23.5 degrees", 2: "none", 3: "-4" },
      "1.3.6.1.9.4": { 1: "online", 2: "on battery", 3: "?" },
    });
    const one = { tags: {}, kind: "by type", factor: 2, unit: "1" } as const;
    const { readings, leftOut } = readPicked(table, [
      { ...one, oid: "1.3.6.1.9.3", counter: "heat", text: { as: "number" } },
      { ...one, oid: "1.3.6.1.9.4", counter: "mains", text: { as: "state", values: { online: 1, "on battery": 0 } } },
      { ...one, oid: "1.3.6.1.9.4", counter: "plain" },
      { ...one, oid: "1.3.6.1.9.5", counter: "gone" },
    ]);
    expect(readings.map(({ counter, tags, value, kind }) => [counter, tags["index"], value, kind])).toEqual([
      ["heat", "1", 47, "level"],
      ["heat", "3", -8, "level"],
      ["mains", "1", 1, "state"],
      ["mains", "2", 0, "state"],
    ]);
    expect(Object.fromEntries(leftOut)).toEqual({
      "a text, not a number: heat (1.3.6.1.9.3)": 1,
      "a text to which no value was given: mains": 1,
      "a text, not a number: plain (1.3.6.1.9.4)": 3,
      "the device does not have it, or its view hides it: gone (1.3.6.1.9.5)": 1,
    });
  });
  test("a group that was picked and is not there is told; where all are taken, nobody picked one", () => {
    expect([...readSnmp(tableOf({}), ["system"], []).leftOut]).toEqual([
      [expect.stringContaining("its view hides it"), 1],
    ]);
    expect([
      ...readSnmp(
        tableOf({}),
        snmpModules.map(({ name }) => name),
        [],
      ).leftOut,
    ]).toEqual([]);
  });
});

test("a device that answers garbage, one variable at a time, still gives numbers for the rest, and only numbers", () => {
  const whole: Record<string, Record<string, number | string>> = {};
  for (const [c, column] of [
    [ifEntry, 2],
    [ifEntry, 8],
    [ifEntry, 10],
    [ifEntry, 5],
    [ifX, 1],
    [ifX, 6],
    [ifX, 15],
    ["1.3.6.1.2.1.25.2.3.1", 2],
    ["1.3.6.1.2.1.25.2.3.1", 3],
    ["1.3.6.1.2.1.25.2.3.1", 4],
    ["1.3.6.1.2.1.25.2.3.1", 5],
    ["1.3.6.1.2.1.25.2.3.1", 6],
    ["1.3.6.1.2.1.99.1.1.1", 1],
    ["1.3.6.1.2.1.99.1.1.1", 2],
    ["1.3.6.1.2.1.99.1.1.1", 3],
    ["1.3.6.1.2.1.99.1.1.1", 4],
    ["1.3.6.1.2.1.99.1.1.1", 5],
    ["1.3.6.1.2.1.33.1.4.4.1", 4],
    ["1.3.6.1.2.1.236.1.4.1", 2],
    ["1.3.6.1.2.1.236.1.8.1", 2],
  ] as const)
    whole[`${c}.${column}`] = { 1: column * 7, 2: column * 11 };
  const modules = snmpModules.filter(({ name }) => name !== "system");
  const all = readSnmp(
    tableOf(whole),
    modules.map(({ name }) => name),
    [],
  ).readings.length;
  expect(all).toBeGreaterThan(5);
  for (const column of Object.keys(whole)) {
    for (const garbage of ["", "\u0000\u0001", "NaN", "no such thing", -1, 4_294_967_295, 1e300]) {
      const { readings } = readSnmp(
        tableOf({ ...whole, [column]: { 1: garbage, 2: whole[column]?.["2"] as number } }),
        modules.map(({ name }) => name),
        [],
      );
      expect(
        readings.every(({ value }) => Number.isFinite(value)),
        `${column} = ${garbage}`,
      ).toBe(true);
      expect(readings.length).toBeGreaterThan(0);
    }
  }
});

describe("energy", () => {
  // Numbers of RFC 7460 are from memory; those of RFC 3621 are as Debian's python3-pysnmp4-mibs has them.
  const eoPower = "1.3.6.1.2.1.229.1.2.1";
  const entity = "1.3.6.1.2.1.47.1.1.1.1";
  test("each outlet by its name, times ten to its multiplier; the device as a whole is no outlet (RFC 7460)", () =>
    expect(
      read(energyModule, {
        [`${eoPower}.1`]: { 1: 420, 11: 605, 12: 0, 13: 7 },
        [`${eoPower}.2`]: { 1: 3680, 11: 0 },
        [`${eoPower}.3`]: { 1: 0, 11: -1, 12: -1, 13: 0 },
        [`${entity}.5`]: { 1: 3, 11: 10, 12: 10, 13: 10 },
        [`${entity}.7`]: { 1: "strip", 11: "Outlet 1", 12: "Outlet 2", 13: "Outlet 2" },
      }),
    ).toEqual({
      "hw.power{sensor=strip}": 420,
      "hw.power.limit{sensor=strip}": 3680,
      "hw.power{outlet=Outlet 1}": 60.5,
      "hw.power{outlet=Outlet 2 (12)}": 0,
      "hw.power{outlet=Outlet 2 (13)}": 7,
    }));
  test("what a switch gives over its ports is no power of its own (RFC 3621)", () => {
    const entry = "1.3.6.1.2.1.105.1.3.1.1";
    expect(read(energyModule, { [`${entry}.2`]: { 1: 370 }, [`${entry}.4`]: { 1: 43 } })).toEqual({
      "hw.power{outlet=powered ports}": 43,
      "hw.power.limit{outlet=powered ports}": 370,
    });
    expect(Object.keys(read(energyModule, { [`${entry}.4`]: { 1: 43, 2: 12 } }))).toEqual([
      "hw.power{outlet=powered ports 1}",
      "hw.power{outlet=powered ports 2}",
    ]);
  });
});
