import { execFile } from "node:child_process";
import { promisify } from "node:util";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readingsOf } from "../core/formats/testing/readings-of.ts";
import { readSnmp } from "../core/formats/snmp/read-snmp.ts";
import { snmpModuleNames } from "../core/formats/snmp/snmp-modules.ts";
import { ContainerGatherer } from "../server/gather/containers/container-gatherer.ts";
import { engineSocket } from "../server/gather/containers/engine-socket.ts";
import { RedfishGatherer } from "../server/gather/redfish/redfish-gatherer.ts";
import { SnmpGatherer } from "../server/gather/snmp/snmp-gatherer.ts";
import { SnmpSession } from "../server/gather/snmp/snmp-wire.ts";
import { freeUdpPort, hasSnmpd } from "../server/testing/snmp-agent.ts";
import type { Credentials } from "../core/sources/source.ts";
import type { Reading } from "../core/counters/reading.ts";
import { readProcNetTcp } from "../core/formats/linux/proc-net-tcp.ts";
import { mastPage } from "./devices/mast-page.ts";
import { PlayoutFiles } from "./playout/playout-files.ts";
import { hiveController } from "./devices/hive.ts";
import { gateState } from "./devices/snmp-devices.ts";
import { tableOf } from "./devices/snmp-table-of.ts";
import { startRedfishServer } from "./protocols/redfish-server.ts";
import { serveDevices, type ServedDevices, worldSecrets } from "./serve-world.ts";
import { always, Growth, pulses, weekly } from "./world/growth.ts";
import { happenings } from "./world/happenings.ts";
import { World } from "./world/world.ts";

const began = Date.UTC(2026, 10, 23, 12) / 1000;
const world = new World(began, 0);
const day = 86_400;

describe("habits", () => {
  test("a shape's integral is the sum of its rates", () => {
    for (const shape of [
      weekly(3600, (weekday, second) => (weekday < 5 && second < 7200 ? 2 : 0.5)),
      pulses(900, 240, 330),
      world.shows,
      world.archiveCopy,
    ]) {
      let sum = 0;
      for (let i = 0; i < 3 * 86_400; i += 10) sum += 10 * shape.rate(began + i);
      expect(shape.since(began + 3 * day) - shape.since(began)).toBeCloseTo(sum, -2);
    }
  });
  test("totals never turn back, at whatever moments they are asked", () => {
    const growth = new Growth(7, [
      [100, always],
      [900, world.shows],
    ]);
    let before = 0;
    for (let at = began; at < began + 20_000; at += 0.7) {
      const now = growth.at(at, began - day);
      expect(now).toBeGreaterThanOrEqual(before);
      before = now;
    }
  });
  test("the month: an outage of 11 minutes nine days before, mast back late, shows in the morning, the copy under the scan", () => {
    expect(world.powerCut.to - world.powerCut.from).toBe(660);
    expect(Math.round((began - world.powerCut.from) / day)).toBe(9);
    expect(world.mastAway.to).toBeGreaterThan(world.powerCut.to);
    const monday = Date.UTC(2026, 10, 23) / 1000;
    expect([world.shows.rate(monday + 8 * 3600), world.shows.rate(monday + 12 * 3600)]).toEqual([1, 0]);
    expect([world.archiveCopy.rate(monday + 2.5 * 3600), world.integrityScan.rate(monday + 2.5 * 3600)]).toEqual([
      1, 1,
    ]);
    expect(world.archiveCopy.rate(monday - day + 2.5 * 3600)).toBe(0); // Sunday
    const week = happenings(world, monday, monday + 7 * day);
    expect(week.filter(({ kind }) => kind === "backup").map(({ from }) => (from - monday) % day)).toEqual(
      new Array(5).fill(2 * 3600 + 600),
    );
    expect(happenings(world, world.powerCut.to, world.powerCut.to + 1).map(({ kind }) => kind)).toEqual(["power loss"]);
  });
});

describe("the box at the transmitter", () => {
  const page = mastPage(world);
  const read = (second: number) => {
    const buckets: [bound: number, count: number][] = [];
    let [count, sum] = [Number.NaN, Number.NaN];
    for (const line of (page(second) as string).split("\n")) {
      const bucket = /^link_round_trip_seconds_bucket\{le="([^"]+)"\} (\d+)$/.exec(line);
      if (bucket)
        buckets.push([bucket[1] === "+Inf" ? Number.POSITIVE_INFINITY : Number(bucket[1]), Number(bucket[2])]);
      if (line.startsWith("link_round_trip_seconds_count ")) count = Number(line.split(" ")[1]);
      if (line.startsWith("link_round_trip_seconds_sum ")) sum = Number(line.split(" ")[1]);
    }
    return { buckets, count, sum };
  };
  const monday = Date.UTC(2026, 10, 23) / 1000;
  // OpenMetrics 1.0, "Histogram": bounds ascend, counts are cumulative, the last bound is +Inf and holds the count.
  test("tells a distribution as its format wants it, at any moment", () => {
    for (const second of [began - 20 * day, monday + 3 * 3600, monday + 8 * 3600, began]) {
      const { buckets, count, sum } = read(second);
      expect(buckets.map(([bound]) => bound)).toEqual([0.02, 0.05, 0.1, 0.2, 0.5, 1, Number.POSITIVE_INFINITY]);
      for (const [i, [, upTo]] of buckets.entries()) expect(upTo).toBeGreaterThanOrEqual(buckets[i - 1]?.[1] ?? 0);
      expect(buckets.at(-1)?.[1]).toBe(count);
      expect(sum / count).toBeGreaterThan(0.02);
      expect(sum / count).toBeLessThan(0.2);
    }
  });
  test("answers wait longer while a show is on air; nothing counts backwards", () => {
    const slow = (from: number, to: number) => {
      const [before, after] = [read(from), read(to)];
      for (const [i, [, upTo]] of after.buckets.entries())
        expect(upTo).toBeGreaterThanOrEqual(before.buckets[i]?.[1] ?? 0);
      return 1 - ((after.buckets[2]?.[1] ?? 0) - (before.buckets[2]?.[1] ?? 0)) / (after.count - before.count);
    };
    expect(slow(monday + 7.3 * 3600, monday + 8.7 * 3600)).toBeGreaterThan(
      2 * slow(monday + 11 * 3600, monday + 15 * 3600),
    );
  });
});

test("the studio's connections are told in the kernel's form: more browsers during a show, none of them lost", () => {
  const at = (second: number) =>
    readingsOf((emit) =>
      readProcNetTcp([new PlayoutFiles(world, () => second * 1000).read("/proc/net/tcp") ?? ""], emit),
    );
  const monday = Date.UTC(2026, 10, 23) / 1000;
  const [quiet, show] = [at(monday + 12 * 3600), at(monday + 8 * 3600)];
  const https = "system.network.connection.count{protocol=https,transport=tcp}";
  expect(
    Object.keys(quiet)
      .map((key) => /protocol=([^,]+)/.exec(key)?.[1])
      .sort(),
  ).toEqual(["https", "nfs", "port 8000", "postgresql", "rtsp", "ssh"]);
  expect(show[https]).toBeGreaterThan(quiet[https] as number);
});

describe("devices, over their own protocols", () => {
  let folder: string;
  let devices: ServedDevices;
  const ports = { gate: 0, ups: 0, hive: 0, mast: 0 };
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), "nubrel-world-"));
    for (const name of ["gate", "ups", "hive", "mast"] as const) ports[name] = await freeUdpPort();
    devices = await serveDevices(world, ports, join(folder, "engine.sock"));
  });
  afterAll(async () => {
    await devices.close();
    rmSync(folder, { recursive: true, force: true });
  });
  const readingOf = (readings: readonly Reading[], counter: string, tags: object = {}) =>
    readings.find(
      (one) => one.counter === counter && Object.entries(tags).every(([tag, value]) => one.tags[tag] === value),
    )?.value;
  const snmp = async (
    port: number,
    version: "2c" | "3",
    credentials: Extract<Credentials, { kind: "community" | "snmp user" }>,
  ) => {
    const device = {
      kind: "snmp",
      host: "127.0.0.1",
      port,
      version,
      timeoutMs: 3000,
      modules: snmpModuleNames,
      numbers: [],
    } as const;
    const gatherer = new SnmpGatherer(new SnmpSession(device, credentials), device);
    await gatherer.gather(Date.now());
    const { readings } = await gatherer.gather(Date.now()); // the second knows what there is, and asks for less
    await gatherer.close();
    return readings;
  };

  test("the router, by version 2c: what comes over the wire is what the device holds", async () => {
    const before = readingsOf((emit) =>
      readSnmp(tableOf(gateState(world)(Date.now() / 1000)), snmpModuleNames, []).readings.forEach(
        ({ counter, tags, value }) => {
          emit(counter, tags, value);
        },
      ),
    );
    const readings = await snmp(ports.gate, "2c", { kind: "community", ...worldSecrets.gate });
    expect(readings.length).toBe(Object.keys(before).length);
    const wan = readingOf(readings, "system.network.io", { interface: "wan", direction: "transmit" }) as number;
    expect(wan).toBeGreaterThan(2 ** 32); // 64 bits
    expect(wan - (before["system.network.io{direction=transmit,interface=wan}"] as number)).toBeLessThan(50e6);
    expect(readingOf(readings, "hw.network.bandwidth.limit", { interface: "lan" })).toBe(125e6);
  });
  test.skipIf(!hasSnmpd)("Debian's client walks the agent to its end", async () => {
    const { stdout: out } = await promisify(execFile)(
      "snmpbulkwalk",
      ["-v2c", "-c", worldSecrets.gate.community, "-On", `127.0.0.1:${ports.gate}`, "1.3.6.1"],
      { encoding: "utf8" },
    );
    expect(out.split("\n").filter((line) => line.includes("= ")).length).toBeGreaterThanOrEqual(
      gateState(world)(began).length,
    );
    expect(out).toContain('.1.3.6.1.2.1.31.1.1.1.1.1 = STRING: "wan"');
  });
  test("the power supply, by version 3, signed and sealed", async () => {
    const { user, authKey, privKey } = worldSecrets.ups;
    const readings = await snmp(ports.ups, "3", {
      kind: "snmp user",
      user,
      level: "sealed",
      authProtocol: "sha256",
      authKey,
      privProtocol: "aes",
      privKey,
    });
    expect(readingOf(readings, "hw.battery.charge")).toBe(1);
    expect(readingOf(readings, "ups.on_battery")).toBe(0);
    expect(readingOf(readings, "hw.power", { sensor: "output" })).toBeGreaterThan(250);
  });

  const controller = (
    port: number,
    trust: ConstructorParameters<typeof RedfishGatherer>[1],
    password: string = worldSecrets.hive.password,
  ) =>
    new RedfishGatherer({ kind: "redfish", host: "127.0.0.1", port, timeoutMs: 5000 }, trust, {
      kind: "basic",
      user: worldSecrets.hive.user,
      password,
    });
  test("the controller: its certificate by fingerprint, a session, power with its own mean of the hour", async () => {
    const gatherer = controller(ports.hive, { kind: "fingerprint", sha256: devices.sha256 });
    const { readings } = await gatherer.gather();
    const again = (await gatherer.gather()).readings;
    await gatherer.close();
    expect(readingOf(readings, "hw.power", { sensor: "Whole machine" })).toBeGreaterThan(120);
    expect(readingOf(readings, "hw.power.own_mean", { sensor: "Whole machine", over: "60 min" })).toBeGreaterThan(120);
    expect(readingOf(readings, "hw.temperature", { sensor: "Processor" })).toBeGreaterThan(40);
    expect(readingOf(readings, "hw.fan.speed", { sensor: "Fan 1" })).toBeGreaterThan(3000);
    expect(again.map(({ counter, tags }) => [counter, tags])).toEqual(
      readings.map(({ counter, tags }) => [counter, tags]),
    );
  });
  test("sessions are given back, and one that has run out is made anew", async () => {
    const server = await startRedfishServer({
      port: 0,
      name: "c",
      ...worldSecrets.hive,
      resources: hiveController(world),
      atSeconds: () => began,
    });
    const gatherer = controller(server.port, { kind: "unchecked" });
    await gatherer.gather();
    expect(server.sessions.size).toBe(1);
    (server.sessions as Set<string>).clear();
    await gatherer.gather();
    expect(server.sessions.size).toBe(1);
    await gatherer.close();
    expect(server.sessions.size).toBe(0);
    await server.close();
  });
  test("a controller without sessions takes the credentials at each request", async () => {
    const server = await startRedfishServer({
      port: 0,
      name: "c",
      ...worldSecrets.hive,
      resources: hiveController(world),
      atSeconds: () => began,
      hasSessions: false,
    });
    const gatherer = controller(server.port, { kind: "unchecked" });
    expect((await gatherer.gather()).readings.length).toBeGreaterThan(8);
    await gatherer.close();
    await server.close();
  });
  test.each([
    ["a wrong password", { kind: "unchecked" }, "wrong", "wrong credentials"],
    ["a certificate signed by itself", { kind: "system" }, undefined, "self-signed"],
    ["another fingerprint", { kind: "fingerprint", sha256: "00".repeat(32) }, undefined, "other fingerprint"],
  ] as const)("%s is told", async (_name, trust, password, kind) => {
    const gatherer = controller(ports.hive, trust, password);
    await expect(gatherer.gather()).rejects.toMatchObject({ kind });
    await gatherer.close();
  });
  test("a controller that answers garbage, one resource at a time, gives the rest or says what is wrong, and never crashes", async () => {
    const good = hiveController(world)(began);
    for (const path of Object.keys(good)) {
      for (const bad of [
        {},
        { Members: 7, Sensors: null, Reading: "hot", ReadingType: 5, PowerControl: [null, 3, "x"], Status: "OK" },
      ] as const) {
        const server = await startRedfishServer({
          port: 0,
          name: "c",
          ...worldSecrets.hive,
          resources: () => ({ ...good, [path]: bad as never }),
          atSeconds: () => began,
        });
        const gatherer = controller(server.port, { kind: "unchecked" });
        const result = await gatherer.gather().then(
          ({ readings }) => readings.every(({ value }) => Number.isFinite(value)),
          (error) => error.kind,
        );
        expect([true, "not the format"]).toContain(result);
        await gatherer.close();
        await server.close();
      }
    }
  });

  test("the container engine: six containers with what they use, health and restarts; a rule leaves some; a label becomes a tag", async () => {
    const socket = join(folder, "engine.sock");
    const gather = async (more: object = {}) => {
      const gatherer = new ContainerGatherer(
        { kind: "containers", socket, timeoutMs: 3000, rules: [], labels: [], command: false, ...more },
        engineSocket(socket, 3000),
        undefined,
      );
      const gathered = await gatherer.gather();
      await gatherer.close();
      return gathered.readings;
    };
    const all = await gather();
    expect(
      all.filter(({ counter }) => counter === "container.state.running").map(({ tags }) => tags["container"]),
    ).toEqual(["relay", "site", "chat", "stats", "ledger", "proxy"]);
    expect(readingOf(all, "container.count", { state: "running" })).toBe(6);
    expect(readingOf(all, "container.restarts", { container: "chat" })).toBeGreaterThan(0);
    expect(readingOf(all, "container.memory.usage", { container: "chat" })).toBeGreaterThan(180 * 1_048_576);
    const few = await gather({
      rules: [
        { do: "leave", by: "label", like: "*" },
        { do: "take", by: "image", like: "quay/chat:*" },
      ],
      labels: ["role"],
      command: true,
    });
    expect(new Set(few.filter(({ tags }) => tags["container"]).map(({ tags }) => tags["container"]))).toEqual(
      new Set(["chat"]),
    );
    expect(few.find(({ counter }) => counter === "container.memory.limit")?.tags).toEqual({
      container: "chat",
      image: "quay/chat:2.7",
      "label.role": "web",
      command: "chat --rooms studio",
    });
  });
});
