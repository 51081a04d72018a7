import { describe, expect, test } from "vitest";
import { catalogue } from "../../../../core/counters/catalogue.ts";
import type { CounterKind, Tags } from "../../../../core/counters/counter.ts";
import { evaluateReading, type SeriesColumn } from "../../../../core/reading/evaluate.ts";
import { meets } from "../../../../core/reading/where.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { partBands } from "../../shared/bands/part-bands.ts";
import { ledgerColumns, ofEveryMachine } from "./ledger-columns.ts";

// Two samples a minute apart; every figure below is worked out by hand.
const minute = 60_000;
type Given = readonly [counter: string, tags: Tags, first: number, second: number];
const windowsUnits: Readonly<Record<string, string>> = {
  "windows.processor.percent_processor_time": "%",
  "windows.logicaldisk.percent_free_space": "%",
};

/** The last value of each line, by what tells lines apart. */
function read(reading: OpenReading, given: readonly Given[]): Readonly<Record<string, number | null>> {
  const fetched: Record<string, SeriesColumn[]> = {};
  for (const [name, { counter, where = [] }] of Object.entries(reading.sentences)) {
    const info = catalogue.get(counter) ?? { unit: windowsUnits[counter] ?? "By/s", kind: "level" as CounterKind };
    fetched[name] = given
      .filter(([of, tags]) => of === counter && meets(tags, where))
      .map(([, tags, first, second]) => ({
        tags,
        unit: info.unit,
        kind: info.kind,
        column: { timeMs: Float64Array.of(0, minute), value: Float64Array.of(first, second) },
      }));
  }
  const { lines } = evaluateReading({ ...reading, window: { from: 0, to: minute + 1 }, step: 3600 }, fetched);
  return Object.fromEntries(
    lines.map(({ tags, last }) => [
      [tags["machine"], tags["guest"] ?? tags["container"] ?? tags["instance"]].filter(Boolean).join(" "),
      last,
    ]),
  );
}

const column = (id: string) => {
  const found = ledgerColumns.find((one) => one.id === id);
  if (!found) throw new Error(`no column ${id}`);
  return found;
};
const readings = (id: string, given: readonly Given[]) =>
  ofEveryMachine(column(id)).map((reading) => read(reading, given));

describe("a column reads every machine at once, by whichever counters it has", () => {
  test("processor: the modes of one, the device's own figure of another, Windows' total of a third", () => {
    const found = readings("processor", [
      ["system.cpu.time", { machine: "hive", mode: "user" }, 0, 30],
      ["system.cpu.time", { machine: "hive", mode: "idle" }, 0, 90],
      ["system.cpu.logical.count", { machine: "hive" }, 2, 2],
      ["system.cpu.utilization", { machine: "gate", cpu: "0" }, 0.2, 0.2],
      ["system.cpu.utilization", { machine: "gate", cpu: "1" }, 0.4, 0.4],
      ["windows.processor.percent_processor_time", { machine: "desk", instance: "_Total" }, 12, 12],
      ["windows.processor.percent_processor_time", { machine: "desk", instance: "0" }, 99, 99],
    ]);
    expect(found[0]).toEqual({ hive: 25 });
    expect(found[1]?.["gate"]).toBeCloseTo(30, 9);
    expect(found[2]).toEqual({ "desk _Total": 12 });
  });
  test("network: bytes both ways as bits, Windows' rates alike; of a router's flows what it received", () => {
    const found = readings("network", [
      ["system.network.io", { machine: "hive", interface: "e0", direction: "receive" }, 0, 60_000],
      ["system.network.io", { machine: "hive", interface: "e1", direction: "transmit" }, 0, 15_000],
      ["windows.network_interface.bytes_received_per_sec", { machine: "desk", instance: "studio" }, 1000, 1000],
      ["windows.network_interface.bytes_sent_per_sec", { machine: "desk", instance: "studio" }, 250, 250],
      [
        "system.network.protocol.io",
        { machine: "edge", interface: "wan", direction: "receive", protocol: "https", transport: "tcp" },
        0,
        60_000,
      ],
      [
        "system.network.protocol.io",
        { machine: "edge", interface: "lan", direction: "transmit", protocol: "https", transport: "tcp" },
        0,
        60_000,
      ],
    ]);
    expect(found).toEqual([{ hive: 10_000 }, { "desk studio": 10_000 }, { edge: 8000 }]);
  });
  test("volumes of Windows are told by what is used, not by what is free", () =>
    expect(
      readings("volume", [["windows.logicaldisk.percent_free_space", { machine: "desk", instance: "C:" }, 41, 41]])[2],
    ).toEqual({ "desk C:": 59 }));
  test("battery in percent, the hottest sensor, watts as decided, never added", () => {
    expect(readings("battery", [["hw.battery.charge", { machine: "ups" }, 0.5, 0.5]])).toEqual([{ ups: 50 }]);
    expect(
      readings("temperature", [
        ["hw.temperature", { machine: "hive", sensor: "a" }, 40, 40],
        ["hw.temperature", { machine: "hive", sensor: "b" }, 61, 61],
      ]),
    ).toEqual([{ hive: 61 }]);
    expect(
      readings("power", [
        ["hw.power", { machine: "hive", sensor: "a" }, 40, 40],
        ["hw.power", { machine: "hive", sensor: "b" }, 61, 61],
      ]),
    ).toEqual([{}, { hive: 61 }]);
    expect(
      readings("power", [
        ["hw.host.power", { machine: "hive", sensor: "input" }, 50, 50],
        ["hw.power", { machine: "hive", sensor: "output" }, 40, 40],
      ])[0],
    ).toEqual({ hive: 50 });
  });
});

describe("what runs on a machine, in the same columns", () => {
  const given: readonly Given[] = [
    ["guest.cpu.time", { machine: "hive", guest: "web" }, 0, 24],
    ["guest.cpu.time", { machine: "hive", guest: "mail" }, 0, 6],
    ["system.cpu.logical.count", { machine: "hive" }, 4, 4],
    ["container.memory.usage", { machine: "stream", container: "chat", image: "quay/chat:2.7" }, 2, 2],
    ["system.memory.limit", { machine: "stream" }, 16, 16],
    ["container.network.io", { machine: "stream", container: "chat", direction: "receive" }, 0, 600],
    ["container.network.io", { machine: "stream", container: "chat", direction: "transmit" }, 0, 150],
  ];
  const part = (id: string, kind: "guest" | "container") => read(column(id).parts?.[kind] as OpenReading, given);
  test("a guest's processor is its share of its host's: 24 of 240 processor-seconds are 10 %", () =>
    expect(part("processor", "guest")).toEqual({ "hive web": 10, "hive mail": 2.5 }));
  test("a container's memory is its share of its host's", () =>
    expect(part("memory", "container")).toEqual({ "stream chat": 12.5 }));
  test("a container's traffic is both ways together, in bits", () =>
    expect(part("network", "container")).toEqual({ "stream chat": 100 }));
});

describe("a part's own page", () => {
  const bands = partBands("container", "chat");
  const figure = (id: string, given: readonly Given[]) => {
    const band = bands.find((one) => one.id === id);
    return Object.values(read((band as (typeof bands)[0]).figure.reading("stream"), given));
  };
  const chat = { machine: "stream", container: "chat" };
  test("speaks of that part on that machine alone", () => {
    const others: readonly Given[] = [
      ["container.cpu.time", { machine: "stream", container: "relay", mode: "user" }, 0, 60],
      ["container.cpu.time", { machine: "other", container: "chat", mode: "user" }, 0, 60],
    ];
    expect(
      figure("processor", [
        ["container.cpu.time", { ...chat, mode: "user" }, 0, 9],
        ["container.cpu.time", { ...chat, mode: "system" }, 0, 3],
        ...others,
      ]),
    ).toEqual([20]);
  });
  test("its memory is a share of what it may use; without a limit there is no share", () => {
    expect(
      figure("memory", [
        ["container.memory.usage", chat, 512, 512],
        ["container.memory.limit", chat, 2048, 2048],
      ]),
    ).toEqual([25]);
    expect(figure("memory", [["container.memory.usage", chat, 512, 512]])).toEqual([]);
  });
  test("restarts are counted by how many there were, not by a rate", () => {
    const view = bands.find(({ id }) => id === "state")?.views.find(({ id }) => id === "restarts");
    expect(Object.values(read(view?.reading("stream") as OpenReading, [["container.restarts", chat, 3, 5]]))).toEqual([
      2,
    ]);
  });
});
