import { describe, expect, test } from "vitest";
import { catalogue } from "../counters/catalogue.ts";
import type { CounterKind, Tags } from "../counters/counter.ts";
import type { ReadingDocument } from "./document.ts";
import { evaluateReading, type SeriesColumn } from "./evaluate.ts";
import * as common from "./common-readings.ts";
import { meets } from "./where.ts";

// Two samples a minute apart of a small machine, "a", and one that must not be mixed with it, "b"; every result below
// is worked out by hand.
const minute = 60_000;
interface Given {
  readonly counter: string;
  readonly tags: Tags;
  readonly values: readonly [number, number];
}
const of = (counter: string, tags: Tags, first: number, second = first): Given => ({
  counter,
  tags,
  values: [first, second],
});

function answer(
  reading: Omit<ReadingDocument, "window">,
  given: readonly Given[],
): Readonly<Record<string, number | null>> {
  const fetched: Record<string, SeriesColumn[]> = {};
  for (const [name, { counter, where = [] }] of Object.entries(reading.sentences)) {
    const { unit, kind } = catalogue.get(counter) as { unit: string; kind: CounterKind };
    fetched[name] = given
      .filter((one) => one.counter === counter && meets(one.tags, where))
      .map(({ tags, values }) => ({
        tags,
        unit,
        kind,
        column: { timeMs: Float64Array.of(0, minute), value: Float64Array.from(values) },
      }));
  }
  const { lines } = evaluateReading({ ...reading, window: { from: 0, to: minute + 1 }, step: 3600 }, fetched);
  return Object.fromEntries(
    lines.map(({ tags, last }) => [
      [tags["machine"], tags["mountpoint"] ?? tags["pool"]].filter(Boolean).join(" "),
      last,
    ]),
  );
}

const cpu = [
  of("system.cpu.time", { machine: "a", mode: "user" }, 0, 30),
  of("system.cpu.time", { machine: "a", mode: "system" }, 0, 12),
  of("system.cpu.time", { machine: "a", mode: "iowait" }, 0, 50),
  of("system.cpu.time", { machine: "a", mode: "idle" }, 0, 148),
  of("system.cpu.logical.count", { machine: "a" }, 4),
  of("system.cpu.time", { machine: "b", mode: "user" }, 0, 60),
  of("system.cpu.logical.count", { machine: "b" }, 1),
];

describe("the usual readings", () => {
  test("processor: 42 of 240 processor-seconds in a minute of four are 17.5 %; waiting for disks is not work", () =>
    expect(answer(common.processorBusy(), cpu)).toEqual({ a: 17.5, b: 100 }));
  test("narrowed down to one machine it is that one", () =>
    expect(answer(common.processorBusy([{ tag: "machine", is: ["b"] }]), cpu)).toEqual({ b: 100 }));
  test("memory: 3 of 8 GiB used are 37.5 %, whatever is cached", () => {
    const gib = 2 ** 30;
    expect(
      answer(common.memoryUsed(), [
        of("system.memory.usage", { machine: "a", state: "used" }, 3 * gib),
        of("system.memory.usage", { machine: "a", state: "cached" }, 4 * gib),
        of("system.memory.limit", { machine: "a" }, 8 * gib),
      ]),
    ).toEqual({ a: 37.5 });
  });
  test("the busiest disk, not their mean: 45 of 60 s are 75 %", () =>
    expect(
      answer(common.diskBusy(), [
        of("system.disk.io_time", { machine: "a", device: "sda" }, 0, 45),
        of("system.disk.io_time", { machine: "a", device: "sdb" }, 0, 3),
      ]),
    ).toEqual({ a: 75 }));
  test("disk wait: 1.2 s over 300 operations are 4 ms each; none at all is unknown, not 0", () => {
    const disk = (machine: string, waited: number, operations: number) => [
      of("system.disk.operation_time", { machine, device: "sda", direction: "read" }, 0, waited),
      of("system.disk.operations", { machine, device: "sda", direction: "read" }, 0, operations),
    ];
    const found = answer(common.diskWait(), [...disk("a", 1.2, 300), ...disk("b", 0, 0)]);
    expect(found["a"]).toBeCloseTo(4, 9);
    expect(found["b"] ?? null).toBeNull();
  });
  test("network: 600 kB received and 150 kB sent in a minute are 100 kbit/s", () =>
    expect(
      answer(common.networkBits(), [
        of("system.network.io", { machine: "a", interface: "e0", direction: "receive" }, 0, 600_000),
        of("system.network.io", { machine: "a", interface: "e0", direction: "transmit" }, 0, 150_000),
      ]),
    ).toEqual({ a: 100_000 }));
  test("filesystems as `df` has them: of 100, 19 used, 55 free and 26 reserved for the owner are 19 / 74, not 45 %", () => {
    const at = { machine: "a", device: "sda1", mountpoint: "/srv" };
    expect(
      answer(common.filesystemUsed(), [
        of("system.filesystem.usage", { ...at, state: "used" }, 19),
        of("system.filesystem.usage", { ...at, state: "free" }, 55),
        of("system.filesystem.usage", { ...at, state: "reserved" }, 26),
        of("system.filesystem.limit", at, 100),
      ])["a /srv"],
    ).toBeCloseTo((19 / 74) * 100, 9);
  });
  test("pools: each by itself", () => {
    const pool = (name: string, used: number) => [
      of("storage.pool.usage", { machine: "a", pool: name, state: "used" }, used),
      of("storage.pool.usage", { machine: "a", pool: name, state: "free" }, 200 - used),
      of("storage.pool.limit", { machine: "a", pool: name }, 200),
    ];
    expect(answer(common.poolUsed(), [...pool("archive", 150), ...pool("work", 20)])).toEqual({
      "a archive": 75,
      "a work": 10,
    });
  });
  test("without a condition none is written into the document", () => {
    for (const { where } of Object.values(common.networkBits().sentences)) expect(where).toBeUndefined();
  });
});
