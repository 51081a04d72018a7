import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { Reading } from "../../core/counters/reading.ts";
import { hiveController } from "../../standins/devices/hive.ts";
import { StreamEngine } from "../../standins/devices/stream-host.ts";
import { startRedfishServer } from "../../standins/protocols/redfish-server.ts";
import { World } from "../../standins/world/world.ts";
import { hasSnmpd, type RealAgent, startSnmpd } from "../testing/snmp-agent.ts";
import { ContainerGatherer } from "./containers/container-gatherer.ts";
import { RedfishGatherer } from "./redfish/redfish-gatherer.ts";
import { SnmpGatherer } from "./snmp/snmp-gatherer.ts";
import { SnmpSession, type SnmpWire } from "./snmp/snmp-wire.ts";
import { machineFiles } from "./this-machine/machine-files.ts";
import { MachineGatherer } from "./this-machine/machine-gatherer.ts";
import { WhichTells } from "./which-tells.ts";

// A device of each kind is asked for everything, and then for a few counters: the second answer has these as the first
// one had them, and less was asked for.

const only = (...counters: string[]) => new Set(counters);
/** Notes what is asked for, and asks. */
function noted<T>(list: string[], asked: readonly string[], ask: () => T): T {
  list.push(...asked);
  return ask();
}
/** The series of these counters among readings. */
const keysOf = (readings: readonly Reading[], wanted: ReadonlySet<string>) =>
  readings
    .filter(({ counter }) => wanted.has(counter))
    .map(({ counter, tags }) => seriesKey(counter, tags))
    .sort();

test("a part that was never asked for everything may tell of anything", () => {
  const tells = new WhichTells();
  expect([tells.may("a", only("x")), tells.has("a")]).toEqual([true, false]);
  tells.note("a", "y");
  expect([tells.may("a", only("x")), tells.may("a", only("y", "z")), tells.may("a", undefined)]).toEqual([
    false,
    true,
    true,
  ]);
});

test.each([["system.cpu.time"], ["system.disk.io"], ["system.filesystem.usage"], ["process.memory.usage"]])(
  "this machine's own kernel, for %s",
  async (counter) => {
    const files = machineFiles();
    const read: string[] = [];
    const gatherer = new MachineGatherer({ ...files, read: (path) => noted(read, [path], () => files.read(path)) });
    const all = await gatherer.gather();
    read.length = 0;
    const some = await gatherer.gather(only(counter));
    const wanted = only(counter);
    if (counter !== "process.memory.usage") expect(keysOf(some, wanted)).toEqual(keysOf(all, wanted));
    expect(some.length).toBeLessThan(all.length / 2);
    const processes = read.filter((path) => /^\/proc\/\d+\/stat$/.test(path)).length;
    if (counter === "process.memory.usage") expect(processes).toBeGreaterThan(0);
    else expect(read.filter((path) => path !== "/proc/mdstat").length).toBeLessThanOrEqual(3);
    // What is gathered usually goes on as if nothing had been asked between: the space of filesystems every sixth time.
    const next = await gatherer.gather();
    expect(next.some((one) => one.counter === "system.filesystem.usage")).toBe(false);
  },
);

describe.skipIf(!hasSnmpd)("a real agent (Debian's snmpd)", () => {
  let agent: RealAgent;
  beforeAll(async () => {
    agent = await startSnmpd();
  });
  afterAll(() => agent.stop());

  test("is asked for the columns of the module that tells, and for the number that was picked", async () => {
    const uptime = { oid: "1.3.6.1.2.1.1.3", counter: "sys.uptime", unit: "cs", kind: "level", factor: 1, tags: {} };
    const device = {
      ...{ kind: "snmp", host: "127.0.0.1", port: agent.port, version: "2c", timeoutMs: 2000 },
      ...{ modules: ["host", "interfaces", "system"], numbers: [uptime] },
    } as never;
    const session = new SnmpSession(device, { kind: "community", community: "quay" });
    const asked: string[] = [];
    const wire: SnmpWire = {
      get: (oids) => noted(asked, oids, () => session.get(oids)),
      next: (oids, repetitions) => noted(asked, oids, () => session.next(oids, repetitions)),
      close: () => session.close(),
    };
    const gatherer = new SnmpGatherer(wire, device);
    const all = (await gatherer.gather(Date.now())).readings;
    const before = asked.length;
    asked.length = 0;
    const wanted = only("system.network.io");
    const some = (await gatherer.gather(Date.now(), wanted)).readings;
    expect(keysOf(some, wanted)).toEqual(keysOf(all, wanted));
    expect(keysOf(some, wanted).length).toBeGreaterThan(0);
    expect(asked.length).toBeLessThan(before / 2);
    // ifTable and ifXTable (RFC 2863) alone
    expect(asked.filter((oid) => !/^1\.3\.6\.1\.2\.1\.(2\.2|31\.1\.1)\./.test(oid))).toEqual([]);
    asked.length = 0;
    const picked = (await gatherer.gather(Date.now(), only("sys.uptime"))).readings;
    expect(picked.map(({ counter }) => counter)).toEqual(["sys.uptime"]);
    expect(asked.every((oid) => oid.startsWith("1.3.6.1.2.1.1.3"))).toBe(true);
    await gatherer.close();
  });
});

test("a controller is asked for the documents that tell", async () => {
  const world = new World(1_795_000_000, 0);
  const resources = hiveController(world);
  const server = await startRedfishServer({
    ...{ port: 0, name: "hive", user: "ines", password: "of the controller" },
    resources,
    atSeconds: () => 1_795_100_000,
  });
  const gatherer = new RedfishGatherer(
    { kind: "redfish", host: "127.0.0.1", port: server.port, timeoutMs: 5000 },
    { kind: "unchecked" },
    { kind: "basic", user: "ines", password: "of the controller" },
  );
  const all = await gatherer.gather();
  const fans = only("hw.fan.speed");
  const some = await gatherer.gather(0, fans);
  expect(keysOf(some.readings, fans)).toEqual(keysOf(all.readings, fans));
  expect(keysOf(some.readings, fans).length).toBeGreaterThan(0);
  const documents = (raw: string) => Object.keys(JSON.parse(raw) as object).length;
  expect(documents(some.raw)).toBeLessThan(documents(all.raw));
  expect(await gatherer.gather(0, only("system.cpu.time"))).toMatchObject({ readings: [] });
  await gatherer.close();
  await server.close();
});

test("an engine is not asked about each container where the kernel's groups or its list tell", async () => {
  const engine = new StreamEngine(new World(1_795_000_000, 0));
  const asked: string[] = [];
  const device = { kind: "containers", socket: "/x", timeoutMs: 1000, labels: [], command: false, rules: [] } as never;
  const gatherer = new ContainerGatherer(
    device,
    {
      get: async (path) =>
        noted(asked, [path], () => ({ status: 200, json: engine.answer(path, 1_795_100_000) ?? null })),
      follow: () => () => {},
    },
    undefined,
  );
  const all = (await gatherer.gather()).readings;
  expect(asked.some((path) => path.includes("/stats"))).toBe(true);
  asked.length = 0;
  const running = only("container.state.running");
  expect(keysOf((await gatherer.gather(0, running)).readings, running)).toEqual(keysOf(all, running));
  expect(asked).toEqual(["/containers/json?all=1"]);
  const busy = only("container.cpu.time");
  expect(keysOf((await gatherer.gather(0, busy)).readings, busy)).toEqual(keysOf(all, busy));
});
