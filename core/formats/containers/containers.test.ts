import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { type ContainerRule, takesContainer } from "../../sources/container-choice.ts";
import { readingsOf } from "../testing/readings-of.ts";
import { readControlGroup1, readControlGroup2 } from "./control-group.ts";
import { parseContainerList, parseEngineEvent, readEngineStats } from "./engine.ts";

const fixture = (name: string) => readFileSync(new URL(`../testing/fixtures/${name}`, import.meta.url), "utf8");
const engine = (name: string) =>
  readFileSync(new URL(`../../../server/testing/fixtures/${name}`, import.meta.url), "utf8");
const tags = { container: "relay" };

describe("control groups (kernel: cgroup-v2.rst; files of a guest's kernel)", () => {
  test("version 2", () => {
    const files: Record<string, string> = {
      "cpu.stat": fixture("cgroup2-cpu.stat"),
      "memory.stat": fixture("cgroup2-memory.stat"),
      "io.stat": fixture("cgroup2-io.stat"),
      "memory.current": "98304\n",
      "memory.max": "max\n",
      "pids.current": "1\n",
    };
    expect(readingsOf((emit) => readControlGroup2((_controller, file) => files[file], tags, emit))).toEqual({
      "container.cpu.time{container=relay,mode=user}": 0.588247,
      "container.cpu.time{container=relay,mode=system}": 0.07353,
      "container.cpu.throttled_time{container=relay}": 0,
      "container.memory.usage{container=relay}": 98_304,
      "container.memory.cache{container=relay}": 0,
      "container.memory.rss{container=relay}": 57_344,
      "container.memory.activity{container=relay,state=active}": 4096,
      "container.memory.activity{container=relay,state=inactive}": 53_248,
      "container.paging.faults{container=relay,type=major}": 0,
      "container.paging.faults{container=relay,type=minor}": 102,
      "container.process.count{container=relay}": 1,
      "container.disk.io{container=relay,direction=read}": 13_238_272,
      "container.disk.io{container=relay,direction=write}": 0,
      "container.disk.operations{container=relay,direction=read}": 101,
      "container.disk.operations{container=relay,direction=write}": 0,
    });
  });
  test("version 1 (kernel: cgroup-v1 memory.rst, cpuacct.rst): ticks of USER_HZ; the largest number of pages is no limit", () => {
    const files: Record<string, string> = {
      "cpuacct/cpuacct.stat": "user 250\nsystem 50\n",
      "memory/memory.usage_in_bytes": "4096\n",
      "memory/memory.limit_in_bytes": "9223372036854771712\n",
      "memory/memory.stat": "total_cache 1000\ntotal_rss 3096\n",
      "blkio/blkio.throttle.io_service_bytes": "8:0 Read 512\n8:0 Write 1024\n8:16 Read 512\nTotal 2048\n",
    };
    expect(
      readingsOf((emit) => readControlGroup1((controller, file) => files[`${controller}/${file}`], tags, emit)),
    ).toEqual({
      "container.cpu.time{container=relay,mode=user}": 2.5,
      "container.cpu.time{container=relay,mode=system}": 0.5,
      "container.memory.usage{container=relay}": 4096,
      "container.memory.cache{container=relay}": 1000,
      "container.memory.rss{container=relay}": 3096,
      "container.disk.io{container=relay,direction=read}": 1024,
      "container.disk.io{container=relay,direction=write}": 1024,
    });
  });
  test("a group that has gone gives nothing", () => {
    expect(readingsOf((emit) => readControlGroup2(() => undefined, tags, emit))).toEqual({});
  });
});

describe("an engine's own answers", () => {
  test("the list: names without their slash, an image without a name, states as the engine says them", () => {
    expect(
      parseContainerList(JSON.parse(engine("containers.json"))).map(({ name, image, state }) => [name, image, state]),
    ).toEqual([
      ["spin-enabled", "(none)", "running"],
      ["web-1", "localhost/peer-box:1.0", "running"],
      ["bad-exit", "localhost/peer-box:1.0", "exited"],
    ]);
    expect(parseContainerList(JSON.parse(engine("containers-size.json")))[0]?.writtenBytes).toBe(3_030_930);
    expect(() => parseContainerList({ message: "page not found" })).toThrow("not a list");
  });
  test("statistics of one: nanoseconds become seconds, disks that the engine leaves out are left out", () => {
    expect(readingsOf((emit) => readEngineStats(JSON.parse(engine("stats-with-network.json")), tags, emit))).toEqual({
      "container.cpu.time{container=relay,mode=user}": 46_751_101 * 1e-9,
      "container.cpu.time{container=relay,mode=system}": 0.016,
      "container.cpu.throttled_time{container=relay}": 0,
      "container.memory.usage{container=relay}": 1_744_896,
      "container.memory.limit{container=relay}": 67_108_864,
      "container.process.count{container=relay}": 2,
      "container.network.io{container=relay,direction=receive,interface=network}": 472,
      "container.network.io{container=relay,direction=transmit,interface=network}": 1530,
      "container.network.packet.count{container=relay,direction=receive,interface=network}": 0,
      "container.network.packet.count{container=relay,direction=transmit,interface=network}": 0,
    });
  });
  test.each([null, {}, [], "gone", { cpu_stats: null, memory_stats: { usage: "many" }, networks: { a: null } }])(
    "%j gives nothing and never throws",
    (stats) => {
      expect(readingsOf((emit) => readEngineStats(stats, tags, emit))).toEqual({});
    },
  );
  test("events as they came over the socket: what happened to which, and when", () => {
    const events = engine("events-live.jsonl")
      .trim()
      .split("\n")
      .map((line) => parseEngineEvent(JSON.parse(line)))
      .filter((event) => event !== undefined);
    expect(events.map(({ kind, name }) => `${kind} ${name}`)).toEqual(
      expect.arrayContaining(["restarted web-1", "died web-1"]),
    );
    expect(events.find(({ kind }) => kind === "died")).toMatchObject({
      atMs: 1_795_435_383_067,
      text: "web-1 ended with code 137",
    });
    expect(
      parseEngineEvent({
        Type: "container",
        Action: "health_status: unhealthy",
        Actor: { Attributes: { name: "chat" } },
        time: 5,
      }),
    ).toMatchObject({ kind: "unhealthy", name: "chat", atMs: 5000 });
    expect(parseEngineEvent({ Type: "container", Action: "health_status: healthy", time: 5 })).toBeUndefined();
    expect(parseEngineEvent({ Type: "image", Action: "create", time: 5 })).toBeUndefined();
  });
});

test.each<[readonly ContainerRule[], boolean]>([
  [[], true],
  [[{ do: "leave", by: "image", like: "quay/relay:*" }], false],
  [
    [
      { do: "leave", by: "name", like: "*" },
      { do: "take", by: "label", like: "tier=front" },
    ],
    true,
  ],
  [[{ do: "leave", by: "label", like: "tier" }], false],
  [[{ do: "leave", by: "label", like: "tier=back" }], true],
])("rules %j: taken %s", (rules, taken) => {
  expect(takesContainer({ rules }, { name: "relay", image: "quay/relay:2", labels: { tier: "front" } })).toBe(taken);
});
