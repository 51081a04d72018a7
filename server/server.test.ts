import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { connect, createServer, type Socket } from "node:net";
import { networkInterfaces, tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { World } from "../standins/world/world.ts";
import { PlayoutFiles } from "../standins/playout/playout-files.ts";
import { ConfigError, readConfig } from "./config.ts";
import { NewerDataError } from "./db/migrate.ts";
import { everyMultiple } from "./gather/schedule.ts";
import { machineFiles, thisMachine } from "./gather/this-machine/machine-files.ts";
import { MachineGatherer } from "./gather/this-machine/machine-gatherer.ts";
import { sentenceFor } from "./foreseen.ts";
import { commonPasswords, hashPassword, isPassword, passwordProblem } from "./people/password.ts";
import { recentSamples, SampleRate } from "./store/sample-rate.ts";

const url = "postgres://nubrel:x@127.0.0.1:5432/nubrel";

describe("settings", () => {
  test("defaults", () =>
    expect(readConfig({ NUBREL_DATABASE_URL: url })).toMatchObject({
      host: "127.0.0.1",
      port: 7373,
      gatherEveryMs: 5000,
      roots: { proc: "/proc", sys: "/sys", root: "/" },
    }));
  test.each([
    [{}, "NUBREL_DATABASE_URL is not set"],
    [{ NUBREL_DATABASE_URL: "mysql://x" }, "not an address of a PostgreSQL"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_PORT: "http" }, "NUBREL_PORT=http is not a whole number from 0 to 65535"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_PORT: "70000" }, "NUBREL_PORT=70000"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_BASE_PATH: "nubrel" }, "NUBREL_BASE_PATH=nubrel is no path"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_BASE_PATH: '/nu"brel' }, "is no path"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_BASE_PATH: "/a/../b" }, "is no path"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_SEVERAL_SERVERS: "2" }, "there are yes, where several servers"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_SERVER_ADDRESS: "10.0.0.5" }, "is no address by which another server"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_SERVER_ADDRESS: "http://a/b" }, "is no address by which another server"],
    [{ NUBREL_DATABASE_URL: url, NUBREL_READ_URL: "standby" }, "is not the address of one PostgreSQL"],
    [
      { NUBREL_DATABASE_URL: url, NUBREL_READ_URL: "postgres://a@one:5432,two:5432/b" },
      "is not the address of one PostgreSQL",
    ],
    [{ NUBREL_DATABASE_URL: url, NUBREL_HOST: "0.0.0.0" }, "passwords would cross the network in clear text"],
  ])("%j is refused: %s", (env, message) => {
    expect(() => readConfig(env)).toThrow(ConfigError);
    expect(() => readConfig(env)).toThrow(message);
  });
  test.each([
    ["/nubrel/", "/nubrel"],
    ["/", ""],
    ["/tools/nubrel", "/tools/nubrel"],
  ])("a path below which it is asked, %s, is %s", (said, path) =>
    expect(readConfig({ NUBREL_DATABASE_URL: url, NUBREL_BASE_PATH: said }).basePath).toBe(path),
  );
  test("listening beyond loopback is possible when it is said out loud", () => {
    expect(readConfig({ NUBREL_DATABASE_URL: url, NUBREL_HOST: "0.0.0.0", NUBREL_PLAINTEXT: "yes" }).host).toBe(
      "0.0.0.0",
    );
  });
});

test.each([
  [Object.assign(new Error("x"), { code: "EADDRINUSE" }), "Port 7373 on 127.0.0.1 is taken by another program"],
  [Object.assign(new Error("x"), { code: "ECONNREFUSED" }), "The database does not answer"],
  [Object.assign(new Error("x"), { code: "28P01" }), "refuses the name or password"],
  [Object.assign(new Error("x"), { code: "53100" }), "The disk is full"],
  [Object.assign(new Error("x"), { code: "42501" }), "may not make tables"],
  [new NewerDataError("The database is at version 9"), "The database is at version 9"],
  [new Error("boom"), "Nubrel could not start: Error: boom"],
])("a failure to start becomes a sentence: %s", (error, sentence) =>
  expect(sentenceFor(error, { host: "127.0.0.1", port: 7373 })).toContain(sentence),
);

describe("passwords (OWASP ASVS 4.0 §2.1)", () => {
  test.each([
    ["short", "has 5 characters; it needs 12"],
    ["password1234", "among the most common"],
    ["PASSWORD1234", "among the most common"],
    ["monkey!!2026!", "among the most common"],
    ["dragondragon", "among the most common"],
    ["1q2w3e4r5t6y", "among the most common"],
    ["aaaaaaaaaaaaaaab", "repeats very few characters"],
    ["ines12345678", "a name that is in use here (Ines)"],
    ["kestrelquay-01", "a name that is in use here (kestrel-quay)"],
    ["nubrel2026!!", "a name that is in use here (nubrel)"],
    ["x".repeat(201), "200 is the most"],
    ["🦅🦅🦅🦅🦅🦅🦅🦅🦅🦅🦅", "has 11 characters"],
  ])("%s is refused: %s", async (password, problem) =>
    expect(await passwordProblem(password, ["Ines", "kestrel-quay", "a"])).toContain(problem),
  );
  test.each(["Vögel am Kai 7", "kestrel on the quay", "monkeys like wet rain"])(
    "%s will do: spaces and any writing are welcome",
    async (password) => expect(await passwordProblem(password, ["Ines"])).toBeUndefined(),
  );
  test("ten thousand are known at least", async () => expect((await commonPasswords()).size).toBeGreaterThan(10_000));
  test("Argon2id with the parameters of RFC 9106 §4; composed and decomposed letters are the same password", async () => {
    const hashed = await hashPassword("Vo\u0308gel am Kai 7");
    expect(hashed).toContain("$argon2id$v=19$m=65536,t=3,p=4$");
    expect(await isPassword("V\u00f6gel am Kai 7", hashed)).toBe(true);
    expect(await isPassword("Vogel am Kai 7", hashed)).toBe(false);
  });
});

describe("gathering a machine", () => {
  let folder: string;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), "nubrel-machine-"));
  });
  afterEach(() => rmSync(folder, { recursive: true }));
  const write = (path: string, text: string) => {
    mkdirSync(join(folder, path, ".."), { recursive: true });
    writeFileSync(join(folder, path), text);
  };

  test("from folders that stand for /proc, /sys and /; whole disks only, sensors by their labels, what is missing is left out", async () => {
    write("proc/stat", "cpu  10 0 0 10 0 0 0 0 0 0\ncpu0 10 0 0 10 0 0 0 0 0 0\n");
    write(
      "proc/diskstats",
      "8 0 sda 1 0 8 1 1 0 8 1 0 1 1\n8 1 sda1 1 0 8 1 1 0 8 1 0 1 1\n7 0 loop0 1 0 8 1 1 0 8 1 0 1 1\n",
    );
    write("proc/self/mounts", "/dev/sda1 /srv ext4 rw 0 0\n");
    write("proc/17/stat", `17 (playout) S 1 1 1 0 -1 0 0 0 0 0 5 5 0 0 20 0 1 0 9 100 200 ${"0 ".repeat(20)}`);
    write("proc/18/stat", "gone");
    write("sys/block/sda/device/model", "x");
    write("sys/block/loop0/size", "0");
    write("sys/class/hwmon/hwmon3/name", "k10temp\n");
    write("sys/class/hwmon/hwmon3/temp1_input", "41250\n");
    write("sys/class/hwmon/hwmon3/temp1_label", "Tctl\n");
    write("srv/x", "");
    const readings = await new MachineGatherer(
      machineFiles({ proc: join(folder, "proc"), sys: join(folder, "sys"), root: folder }),
    ).gather();
    const of = (counter: string) => readings.filter((reading) => reading.counter === counter);
    expect(of("system.cpu.time").map(({ tags }) => tags["mode"])).toContain("idle");
    expect(of("system.disk.io").map(({ tags }) => tags["device"])).toEqual(["sda", "sda"]);
    expect(of("hw.temperature")).toEqual([
      { counter: "hw.temperature", tags: { sensor: "k10temp Tctl" }, value: 41.25 },
    ]);
    expect(of("system.filesystem.limit")).toHaveLength(1);
    expect(of("process.memory.usage")).toEqual([
      { counter: "process.memory.usage", tags: { process: "playout", pid: "17" }, value: 200 * 4096 },
    ]);
    expect(of("system.memory.usage")).toEqual([]);
    expect(of("system.pressure.stalled_time")).toEqual([]);
  });

  test("a filesystem that hangs does not hold up the rest, and is not asked again while it hangs", async () => {
    let asked = 0;
    const files = {
      ...machineFiles(thisMachine),
      read: (path: string) => (path === "/proc/self/mounts" ? "/dev/x /mnt/x ext4 rw 0 0\n" : undefined),
      list: () => [],
      space: () => {
        asked++;
        return new Promise<undefined>(() => {});
      },
    };
    const gatherer = new MachineGatherer(files);
    expect(await gatherer.gather()).toEqual([]);
    for (let i = 0; i < 12; i++) await gatherer.gather();
    expect(asked).toBe(1);
  });

  test("the machine that runs the tests has processor, memory, uptime and load", async () => {
    const readings = await new MachineGatherer(machineFiles(thisMachine)).gather();
    for (const counter of ["system.cpu.time", "system.memory.usage", "system.uptime", "system.cpu.load_average"])
      expect(
        readings.some((reading) => reading.counter === counter),
        counter,
      ).toBe(true);
  });

  test("the sample machine reads like a real one: its totals only grow, its memory adds up", async () => {
    let clock = Date.UTC(2026, 10, 23, 12);
    const world = new World(clock / 1000, 0);
    const gatherer = new MachineGatherer(new PlayoutFiles(world, () => clock));
    const first = await gatherer.gather();
    clock += 5000;
    const second = await gatherer.gather();
    const total = (readings: typeof first, counter: string) =>
      readings.filter((reading) => reading.counter === counter).reduce((sum, { value }) => sum + value, 0);
    for (const counter of ["system.cpu.time", "system.disk.io", "system.network.io", "system.paging.faults"])
      expect(total(second, counter), counter).toBeGreaterThan(total(first, counter));
    expect(total(second, "system.cpu.time") - total(first, "system.cpu.time")).toBeCloseTo(4 * 5, 0);
    expect(total(first, "system.memory.usage")).toBe(total(first, "system.memory.limit"));
    const again = await new MachineGatherer(new PlayoutFiles(world, () => clock)).gather();
    expect(again.find(({ counter }) => counter === "system.network.io")).toEqual(
      second.find(({ counter }) => counter === "system.network.io"),
    );
  });
});

describe("a schedule", () => {
  beforeEach(() => {
    vi.useFakeTimers({ now: 1_000_010 });
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  test("runs at whole multiples, never overlaps, leaves out the moments it misses, and survives a failure", async () => {
    const starts: number[] = [];
    const failures: unknown[] = [];
    const schedule = everyMultiple(
      1000,
      async (now) => {
        starts.push(now);
        await new Promise((done) => setTimeout(done, starts.length === 2 ? 1500 : 10));
        if (starts.length === 1) throw new Error("once");
      },
      (error) => failures.push(error),
    );
    await vi.advanceTimersByTimeAsync(5000);
    expect(starts).toEqual([1_001_000, 1_002_000, 1_004_000, 1_005_000]);
    expect(failures).toEqual([new Error("once")]);
    await schedule.stop();
    await vi.advanceTimersByTimeAsync(5000);
    expect(starts).toHaveLength(4);
  });
  test("runs at once where asked to, then at an offset", async () => {
    const starts: number[] = [];
    const schedule = everyMultiple(
      1000,
      async (now) => void starts.push(now),
      () => {},
      { offsetMs: 700, atOnce: true },
    );
    await vi.advanceTimersByTimeAsync(2000);
    expect(starts).toEqual([1_000_010, 1_000_700, 1_001_700]);
    await schedule.stop();
  });
  test("where the clock is set back or ahead, it goes on at the moments of the new time", async () => {
    const starts: number[] = [];
    const schedule = everyMultiple(
      1000,
      async (now) => void starts.push(now),
      () => {},
    );
    await vi.advanceTimersByTimeAsync(2000);
    vi.setSystemTime(Date.now() - 600_000);
    await vi.advanceTimersByTimeAsync(3000);
    vi.setSystemTime(Date.now() + 86_400_000);
    await vi.advanceTimersByTimeAsync(2000);
    await schedule.stop();
    expect(starts).toEqual([1_001_000, 1_002_000, 403_000, 404_000, 405_000, 86_806_000, 86_807_000]);
  });
  test("stopping waits for what runs", async () => {
    let ended = false;
    const schedule = everyMultiple(
      1000,
      async () => {
        await new Promise((done) => setTimeout(done, 300));
        ended = true;
      },
      () => {},
    );
    await vi.advanceTimersByTimeAsync(1000);
    const stopped = schedule.stop();
    expect(ended).toBe(false);
    await vi.advanceTimersByTimeAsync(300);
    await stopped;
    expect(ended).toBe(true);
  });
});

test("samples a second are counted over the last minute", () => {
  // an import does not count
  expect(recentSamples({ timeMs: Float64Array.of(1e9, 2e9, 2e9 - 60_000, 2e9 + 5), length: 3 }, 2e9)).toBe(2);
  const rate = new SampleRate();
  expect(rate.perSecond(0)).toBe(0);
  for (let second = 0; second < 120; second++) rate.count(second < 60 ? 1000 : 10, second * 1000);
  expect(rate.perSecond(119_000)).toBe(10);
  expect(rate.perSecond(400_000)).toBe(0);
});

describe("connections of this machine, as its kernel tells them", () => {
  const address = Object.values(networkInterfaces())
    .flat()
    .find((one) => one && !one.internal && one.family === "IPv4")?.address;
  const counted = async (port: number) => {
    const readings = await new MachineGatherer(machineFiles(thisMachine)).gather();
    return (
      readings.find(
        ({ counter, tags }) => counter === "system.network.connection.count" && tags["protocol"] === `port ${port}`,
      )?.value ?? 0
    );
  };
  test.skipIf(address === undefined)(
    "both ends of each connection over an address of its own are counted under the port that listens, those over the loopback are not",
    async () => {
      const server = createServer();
      const open: Socket[] = [];
      const ended: Socket[] = [];
      server.on("connection", (socket) => ended.push(socket));
      await new Promise<void>((done) => server.listen(0, "0.0.0.0", done));
      const { port } = server.address() as { port: number };
      const dial = (host: string) =>
        new Promise<void>((done, failed) => {
          const socket = connect(port, host, done).once("error", failed);
          open.push(socket);
        });
      try {
        await dial("127.0.0.1");
        expect(await counted(port)).toBe(0);
        await dial(address as string);
        await dial(address as string);
        await dial(address as string);
        expect(await counted(port)).toBe(6);
      } finally {
        for (const socket of [...open, ...ended]) socket.destroy();
        server.close();
      }
    },
  );
});
