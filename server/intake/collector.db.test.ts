import type { RunningServer } from "../running-server.ts";
import type { Emit } from "../../core/counters/counter.ts";
import { readControlGroup2 } from "../../core/formats/containers/control-group.ts";
import { readMdstat } from "../../core/formats/storage/mdstat.ts";
import { readBtrfs } from "../../core/formats/storage/btrfs.ts";
import { readZpools } from "../../core/formats/storage/pools.ts";
import { StreamEngine } from "../../standins/devices/stream-host.ts";
import { startEngineServer } from "../../standins/protocols/engine-server.ts";
import { World } from "../../standins/world/world.ts";
import { execFile, spawn } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { counterInfo, counterOfPlainName } from "../../core/counters/catalogue.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import { PageReader } from "../../core/formats/exposition/page-reader.ts";
import { readConfig } from "../config.ts";
import { machineFiles } from "../gather/this-machine/machine-files.ts";
import { MachineGatherer } from "../gather/this-machine/machine-gatherer.ts";
import { projectRoot } from "../project-root.ts";
import { startServer } from "../compose.ts";
import { version } from "../version.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

const run = promisify(execFile);
const script = join(projectRoot, "collector/nubrel-collector.sh");
const shells: readonly (readonly [string, readonly string[]])[] = [
  ["dash", []],
  ["busybox", ["sh"]],
  ["bash", ["--posix"]],
].filter(([shell]) => existsSync(`/usr/bin/${shell}`) || existsSync(`/bin/${shell}`)) as never;
let folder: string;
let server: RunningServer;
let db: TestDatabase;
let owner: HttpClient;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-collector-"));
  db = await testDatabase({ migrated: false });
  server = await startServer(
    readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_MACHINE: "vault", NUBREL_GATHER_MS: "3600000" }),
    { log: pino({ level: "silent" }) },
  );
  owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
});
afterAll(async () => {
  await server.close();
  await db.drop();
  rmSync(folder, { recursive: true, force: true });
});

/** What the collector prints, by series. */
async function gathered(
  [shell, first]: readonly [string, readonly string[]],
  env: Record<string, string> = {},
): Promise<Map<string, number>> {
  const { stdout, stderr } = await run(shell, [...first, script, "try"], {
    env: { ...process.env, NUBREL_STATE: join(folder, "state"), ...env },
    maxBuffer: 50_000_000,
  });
  expect(stderr).toBe("");
  const reader = new PageReader("text");
  const page = reader.read(new TextEncoder().encode(stdout));
  return new Map(
    Array.from({ length: page.length }, (_, i) => {
      const { counter, tags } = reader.series[page.which[i] as number] as (typeof reader.series)[0];
      const info = counterOfPlainName(counter);
      if (!info) throw new Error(`${counter} is not in the catalogue`);
      return [seriesKey(info.name, tags), page.value[i] as number] as const;
    }),
  );
}

/** Process lists and queues differ from moment to moment, and so do counts of what the collector's own processes do. */
const isOfTheMoment = (key: string) =>
  /^(process\.|system\.process\.count|system\.disk\.pending|nubrel\.collector)/.test(key);

describe.each(shells)("under %s", (...shell) => {
  test("gathers the same counters by the same names and tags as this machine is gathered, with the same values", async () => {
    const gatherer = new MachineGatherer(machineFiles());
    const before = new Map(
      (await gatherer.gather()).map(({ counter, tags, value }) => [seriesKey(counter, tags), value]),
    );
    const collected = await gathered(shell);
    const after = new Map(
      (await new MachineGatherer(machineFiles()).gather()).map(({ counter, tags, value }) => [
        seriesKey(counter, tags),
        value,
      ]),
    );
    const keys = (from: ReadonlyMap<string, number>) =>
      [...from.keys()].filter((key) => !isOfTheMoment(key) && !/^(container|guest|storage|drive)\./.test(key)).sort();
    expect(keys(collected)).toEqual(keys(after));
    expect(keys(collected).length).toBeGreaterThan(30);
    for (const key of keys(collected)) {
      const [low, value, high] = [before.get(key), collected.get(key), after.get(key)] as [number, number, number];
      const { kind } = counterInfo(key.slice(0, key.indexOf("{")));
      // A total lies between what this machine said before and after; a level may move, by a little.
      if (kind === "total") expect(value, key).toSatisfy((v: number) => v >= low - 0.011 && v <= high + 0.011);
      else
        expect(Math.abs(value - high), key).toBeLessThanOrEqual(
          Math.max(0.25 * Math.abs(high), key.includes("memory") ? 2e8 : 5),
        );
    }
    expect([...collected.keys()].filter((key) => key.startsWith("process.memory.usage")).length).toBe(
      Math.min(8, [...after.keys()].filter((key) => key.startsWith("process.memory.usage")).length),
    );
  });

  test("reads the kernel's own fixtures to the values that are in them", async () => {
    const proc = join(folder, `proc-${shell[0]}`);
    mkdirSync(join(proc, "net"), { recursive: true });
    const fixture = (name: string) => readFileSync(join(projectRoot, "core/formats/testing/fixtures", name));
    for (const [file, name] of [
      ["stat", "proc-stat"],
      ["meminfo", "proc-meminfo"],
      ["loadavg", "proc-loadavg"],
      ["diskstats", "proc-diskstats"],
      ["net/dev", "proc-net_dev"],
    ] as const)
      writeFileSync(join(proc, file), fixture(name));
    const sys = join(folder, `sys-${shell[0]}`);
    for (const disk of ["sda", "vda", "nvme0n1", "dm-0"])
      mkdirSync(join(sys, "block", disk, disk === "dm-0" ? "slaves" : "device/power"), { recursive: true });
    mkdirSync(join(sys, "class/hwmon/hwmon0"), { recursive: true });
    writeFileSync(join(sys, "class/hwmon/hwmon0/name"), "coretemp\n");
    writeFileSync(join(sys, "class/hwmon/hwmon0/temp1_input"), "41500\n");
    writeFileSync(join(sys, "class/hwmon/hwmon0/temp1_label"), "Package id 0\n");
    const expected = new Map(
      (await new MachineGatherer(machineFiles({ proc, sys, root: "/nowhere" })).gather()).map(
        ({ counter, tags, value }) => [seriesKey(counter, tags), value],
      ),
    );
    const collected = await gathered(shell, { NUBREL_PROC: proc, NUBREL_SYS: sys });
    expect(expected.get('hw.temperature{sensor="coretemp Package id 0"}')).toBe(41.5);
    for (const [key, value] of expected) expect(collected.get(key), key).toBeCloseTo(value, 3);
    expect([...collected.keys()].filter((key) => !expected.has(key) && !key.startsWith("nubrel."))).toEqual([]);
  });
});

test.each(shells)(
  "energy of powercap zones goes on over a wrap, and a zone below another has both names (%s)",
  async (...shell) => {
    const sys = join(folder, `sys-powercap-${shell[0]}`);
    const state = join(folder, `state-powercap-${shell[0]}`);
    const zones = join(sys, "class/powercap");
    const write = (zone: string, name: string, energy: number) => {
      mkdirSync(join(zones, zone), { recursive: true });
      mkdirSync(state, { recursive: true });
      writeFileSync(join(zones, zone, "name"), `${name}\n`);
      writeFileSync(join(zones, zone, "energy_uj"), `${energy}\n`);
      writeFileSync(join(zones, zone, "max_energy_range_uj"), "262143328850\n");
    };
    mkdirSync(join(zones, "intel-rapl"), { recursive: true });
    const told = async () => {
      const found = await gathered(shell, {
        NUBREL_SYS: sys,
        NUBREL_PROC: join(folder, "nothing"),
        NUBREL_STATE: state,
      });
      return Object.fromEntries([...found].filter(([key]) => key.startsWith("hw.energy")));
    };
    write("intel-rapl:0", "package-0", 262_143_000_000);
    write("intel-rapl:0:1", "dram", 5_000_000);
    write("intel-rapl-mmio:0", "package-0", 7);
    expect(await told()).toEqual({ 'hw.energy{zone="package-0"}': 0, 'hw.energy{zone="package-0 dram"}': 0 });
    write("intel-rapl:0", "package-0", 1_671_150);
    write("intel-rapl:0:1", "dram", 17_500_000);
    expect(await told()).toEqual({ 'hw.energy{zone="package-0"}': 2, 'hw.energy{zone="package-0 dram"}': 12.5 });
    // This machine's own gathering says where the counter wraps, and has the kernel's number.
    const own = await new MachineGatherer(
      machineFiles({ proc: join(folder, "nothing"), sys, root: "/nowhere" }),
    ).gather();
    expect(own.filter(({ counter }) => counter === "hw.energy")).toEqual([
      { counter: "hw.energy", tags: { zone: "package-0" }, value: 1.67115, falls: 262_143.328_85 },
      { counter: "hw.energy", tags: { zone: "package-0 dram" }, value: 17.5, falls: 262_143.328_85 },
    ]);
  },
);

test("control groups of containers are gathered under the engine's id", async () => {
  const sys = join(folder, "sys-groups");
  const id = "0123456789ab".padEnd(64, "c");
  const group = join(sys, "fs/cgroup/system.slice", `engine-${id}.scope`);
  mkdirSync(group, { recursive: true });
  writeFileSync(join(sys, "fs/cgroup/cgroup.controllers"), "cpu io memory pids\n");
  const fixtures = {
    "cpu.stat": "usage_usec 3000000\nuser_usec 2000000\nsystem_usec 1000000\nthrottled_usec 250000\n",
    "memory.current": "1048576\n",
    "memory.max": "max\n",
    "pids.current": "12\n",
    "io.stat": "254:0 rbytes=4096 wbytes=8192 rios=1 wios=2 dbytes=0 dios=0\n254:16 rbytes=1 wbytes=0\n",
  };
  for (const [name, text] of Object.entries(fixtures)) writeFileSync(join(group, name), text);
  const found = [
    ...(await gathered(shells[0] as (typeof shells)[0], { NUBREL_SYS: sys, NUBREL_PROC: join(folder, "nothing") })),
  ];
  // What the collector itself took is told where it is a hundredth of a second.
  expect(Object.fromEntries(found.filter(([key]) => !key.startsWith("nubrel.")))).toEqual({
    'container.cpu.time{container="0123456789ab",mode="user"}': 2,
    'container.cpu.time{container="0123456789ab",mode="system"}': 1,
    'container.cpu.throttled_time{container="0123456789ab"}': 0.25,
    'container.memory.usage{container="0123456789ab"}': 1048576,
    'container.process.count{container="0123456789ab"}': 12,
    'container.disk.io{container="0123456789ab",direction="read"}': 4097,
    'container.disk.io{container="0123456789ab",direction="write"}': 8192,
    'container.disk.operations{container="0123456789ab",direction="read"}': 1,
    'container.disk.operations{container="0123456789ab",direction="write"}': 2,
  });
});

test("containers have the engine's names and images where its socket answers; arrays and pools are what core reads of the same texts", async () => {
  const [sys, proc, bin, socket] = [
    join(folder, "sys-named"),
    join(folder, "proc-named"),
    join(folder, "named-bin"),
    join(folder, "engine.sock"),
  ];
  const engine = new StreamEngine(new World(Date.now() / 1000, 0));
  const [first] = engine.answer("/containers/json", Date.now() / 1000) as {
    Id: string;
    Image: string;
    Names: string[];
  }[];
  const group = join(sys, "fs/cgroup/system.slice", `engine-${first?.Id}.scope`);
  for (const path of [group, join(proc, "self"), bin]) mkdirSync(path, { recursive: true });
  const fixture = (name: string) => readFileSync(join(projectRoot, "core/formats/testing/fixtures", name), "utf8");
  writeFileSync(join(sys, "fs/cgroup/cgroup.controllers"), "cpu io memory pids\n");
  const files = { "cpu.stat": "cgroup2-cpu.stat", "memory.stat": "cgroup2-memory.stat", "io.stat": "cgroup2-io.stat" };
  for (const [name, from] of Object.entries(files)) writeFileSync(join(group, name), fixture(from));
  writeFileSync(join(proc, "mdstat"), fixture("mdstat-sync"));
  writeFileSync(join(proc, "self/mounts"), "/dev/loop0 /srv btrfs rw,degraded 0 0\n");
  const usage = join(projectRoot, "core/formats/testing/fixtures/btrfs-usage.txt");
  writeFileSync(
    join(bin, "btrfs"),
    `#!/bin/sh\ncase "$*" in *usage*) cat ${usage} ;; *) printf '[/dev/loop0].write_io_errs    0\\n[/dev/loop1].corruption_errs  3\\n' ;; esac\n`,
    { mode: 0o755 },
  );
  const expected = new Map<string, number>();
  const keep: Emit = (counter, tags, value) =>
    expected.set(
      `${counter}{${Object.keys(tags)
        .sort()
        .map((tag) => `${tag}="${tags[tag]}"`)
        .join(",")}}`,
      value,
    );
  readControlGroup2(
    (_controller, file) => (file in files ? fixture(files[file as keyof typeof files]) : undefined),
    { container: first?.Names[0]?.slice(1) ?? "", image: first?.Image ?? "" },
    keep,
  );
  readMdstat(fixture("mdstat-sync"), keep);
  const stats = JSON.stringify({
    "device-stats": [
      { device: "/dev/loop0", write_io_errs: "0" },
      { device: "/dev/loop1", corruption_errs: "3" },
    ],
  });
  readBtrfs({ usage: fixture("btrfs-usage.txt"), stats, options: ["rw", "degraded"] }, "/srv", keep);
  expect(expected.get('storage.pool.trouble{pool="/srv",why="device errors"}')).toBe(1);
  const served = await startEngineServer(socket, engine, () => Date.now() / 1000);
  for (const shell of shells) {
    const found = await gathered(shell, {
      NUBREL_SYS: sys,
      NUBREL_PROC: proc,
      NUBREL_ENGINE: socket,
      PATH: `${bin}:${process.env["PATH"]}`,
    });
    for (const [key, value] of expected) expect(found.get(key), `${shell}: ${key}`).toBeCloseTo(value, 3);
    expect([...found.keys()].filter((key) => !expected.has(key) && !/^(system|nubrel)\./.test(key))).toEqual([]);
  }
  await served.close();
});

test("processes: the one that is busy leads by processor time, as the kernel counts it; memory is pages of the kernel's own size", async () => {
  const state = join(folder, "processes");
  const busy = spawn("sh", ["-c", "while :; do :; done"]);
  try {
    const shell = shells[0] as (typeof shells)[0];
    const time = `process.cpu.time{mode="user",pid="${busy.pid}",process="sh"}`;
    let found = await gathered(shell, { NUBREL_STATE: state });
    await vi.waitUntil(
      async () => {
        found = await gathered(shell, { NUBREL_STATE: state });
        return (found.get(time) ?? 0) > 0.1;
      },
      { timeout: 20_000, interval: 100 },
    );
    const told = found.get(time);
    const ticks = Number(readFileSync(`/proc/${busy.pid}/stat`, "utf8").split(" ")[13]);
    expect(told).toBeLessThanOrEqual(ticks / 100);
    const resident =
      Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${process.pid}/status`, "utf8"))?.[1]) * 1024;
    const memory = [...found].find(
      ([key]) => key.startsWith("process.memory.usage") && key.includes(`pid="${process.pid}"`),
    )?.[1] as number;
    expect(Math.abs(memory - resident) / resident).toBeLessThan(0.2);
  } finally {
    busy.kill("SIGKILL");
  }
});

test("guests are read from what the virtualisation library's tool prints", async () => {
  const bin = join(folder, "bin");
  mkdirSync(bin, { recursive: true });
  writeFileSync(
    join(bin, "virsh"),
    `#!/bin/sh\ncat ${join(projectRoot, "server/testing/fixtures/qemu-domstats-raw.txt")}\n`,
    { mode: 0o755 },
  );
  const found = await gathered(shells[0] as (typeof shells)[0], {
    NUBREL_SYS: join(folder, "nothing"),
    NUBREL_PROC: join(folder, "nothing"),
    PATH: `${bin}:${process.env["PATH"]}`,
  });
  const text = readFileSync(join(projectRoot, "server/testing/fixtures/qemu-domstats-raw.txt"), "utf8");
  const [, guest] = /^Domain: '(.*)'/m.exec(text) as unknown as [string, string];
  const [, time] = /cpu\.time=(\d+)/.exec(text) as unknown as [string, string];
  expect(found.get(`guest.cpu.time{guest="${guest}"}`)).toBeCloseTo(Number(time) / 1e9, 2);
  expect(found.get(`guest.state.running{guest="${guest}"}`)).toBe(/state\.state=1/.test(text) ? 1 : 0);
});

test("drives and pools are read from what their tools print", async () => {
  const bin = join(folder, "storage-bin");
  mkdirSync(bin, { recursive: true });
  const fixture = (name: string) => join(projectRoot, "server/testing/fixtures", name);
  writeFileSync(
    join(bin, "smartctl"),
    `#!/bin/sh\ncase "$*" in *scan*) echo '/dev/sda -d scsi # /dev/sda, SCSI device' ; echo '/dev/nvme0 -d nvme # NVMe' ;; *sda*) cat ${fixture("smartctl-ata.json")} ;; *) cat ${fixture("smartctl-nvme.json")} ;; esac\n`,
    { mode: 0o755 },
  );
  // The scripted forms of the pools' list and state: tabs, whole bytes (zpool-list(8), -H -p; zpool-status(8), -p).
  // Made-up values.
  const list =
    "archive\t1000000000000\t900000000000\t100000000000\tONLINE\t7\nwork\t5000000000\t1\t4999999999\tDEGRADED\t-\n";
  writeFileSync(
    join(bin, "zpool"),
    `#!/bin/sh\n[ "$1" = status ] && exec cat ${join(bin, "status")}\nexec cat ${join(bin, "list")}\n`,
    { mode: 0o755 },
  );
  writeFileSync(join(bin, "zfs"), "#!/bin/sh\n", { mode: 0o755 });
  writeFileSync(join(bin, "list"), list);
  const status = readFileSync(join(projectRoot, "core/formats/testing/fixtures/zpool-status.txt"), "utf8");
  writeFileSync(join(bin, "status"), status);
  const pools = new Map<string, number>();
  readZpools(list, status, (counter, tags, value) =>
    pools.set(
      `${counter}{${Object.keys(tags)
        .sort()
        .map((tag) => `${tag}="${tags[tag]}"`)
        .join(",")}}`,
      value,
    ),
  );
  for (const shell of shells) {
    const found = Object.fromEntries(
      await gathered(shell, {
        NUBREL_SYS: join(folder, "nothing"),
        NUBREL_PROC: join(folder, "nothing"),
        PATH: `${bin}:${process.env["PATH"]}`,
      }),
    );
    const drive = (name: string) => JSON.parse(readFileSync(fixture(name), "utf8"));
    const [ata, nvme] = [drive("smartctl-ata.json"), drive("smartctl-nvme.json")];
    expect(found).toMatchObject({
      'drive.healthy{device="sda"}': Number(ata.smart_status.passed),
      'drive.power_on_time{device="sda"}': ata.power_on_time.hours * 3600,
      'hw.temperature{sensor="drive sda"}': ata.temperature.current,
      'hw.temperature{sensor="drive nvme0"}': nvme.temperature.current,
      'storage.pool.limit{pool="archive"}': 1e12,
      'storage.pool.usage{pool="archive",state="used"}': 9e11,
      'storage.pool.usage{pool="work",state="free"}': 4_999_999_999,
      'storage.pool.healthy{pool="archive"}': 0,
      'storage.pool.healthy{pool="work"}': 0,
      ...Object.fromEntries(pools),
    });
  }
});

describe("running", () => {
  let token = "";
  let id = 0;
  const state = () => join(folder, "running");
  const view = async () => (await owner.ask("GET", `/api/sources/${id}`)).body;
  const start = (env: Record<string, string> = {}) => {
    const child = spawn("dash", [script, "run"], {
      env: {
        ...process.env,
        NUBREL_STATE: state(),
        NUBREL_TOKEN: token,
        NUBREL_ADDRESS: server.address,
        NUBREL_INTERVAL: "1",
        NUBREL_SLOW_EVERY: "1000",
        NUBREL_DRIVES_EVERY: "1000",
        ...env,
      },
      detached: true,
    });
    let said = "";
    child.stderr.on("data", (data) => (said += data));
    return {
      said: () => said,
      stop: () =>
        new Promise<void>((resolve) => {
          child.once("exit", () => resolve());
          process.kill(-(child.pid as number), "SIGTERM");
        }),
    };
  };
  test("comes from the server filled with what it needs, for whoever has the token", async () => {
    id = (
      await owner.ask("POST", "/api/sources", { kind: "collector", name: "hive", machine: "hive", intervalMs: 5000 })
    ).body.id;
    token = (await owner.ask("POST", "/api/tokens", { name: "hive", scope: "write", sourceId: id })).body.token;
    const fetched = await (
      await fetch(`${server.address}/collector/linux`, { headers: { authorization: `Bearer ${token}` } })
    ).text();
    expect(fetched).toContain(`address='${server.address}'\ntoken='${token}'\ninterval='5'\n`);
    expect(fetched).not.toMatch(/@[A-Z]+@/);
    expect(fetched).toContain(`\nagent='nubrel-collector/${version}'\n`);
    expect((await fetch(`${server.address}/collector/linux`)).status).toBe(401);
    expect(
      await (
        await fetch(`${server.address}/collector/windows`, { headers: { authorization: `Bearer ${token}`, host: "x" } })
      ).text(),
    ).toContain(`set "TOKEN=${token}"\r\n`);
  });
  test("which version it is of is kept, for whoever looks where one has grown old", async () => {
    const push = (agent: string) =>
      fetch(`${server.address}/api/push/openmetrics`, {
        ...{ method: "POST", body: "looks 1\n" },
        headers: { authorization: `Bearer ${token}`, "content-type": "text/plain", "user-agent": agent },
      });
    const kept = async () =>
      (await db.database.query("select sender_version as told from source where id = $1::int", [id])).rows[0].told;
    expect((await push("nubrel-collector/0.0.9")).status).toBe(200);
    await expect.poll(kept).toBe("0.0.9");
    expect((await push("something else")).status).toBe(200);
    expect(await view()).toMatchObject({ senderVersion: "0.0.9" });
  });
  test("sends in batches, under the catalogue's names", async () => {
    const collector = start();
    await expect.poll(async () => (await view()).taken, { timeout: 20_000, interval: 300 }).toBeGreaterThan(20);
    expect(await view()).toMatchObject({ state: "reporting", leftOut: {} });
    const reading = await owner.ask("POST", "/api/readings", {
      window: { from: Date.now() - 60_000, to: Date.now() + 5000 },
      sentences: {
        m: {
          counter: "system.memory.usage",
          where: [{ tag: "machine", is: ["hive"] }],
          lines: "together",
          combine: "sum",
        },
      },
    });
    expect(reading.body.lines[0]).toMatchObject({ unit: "By" });
    await collector.stop();
  });
  test("while the server is away it keeps what it gathers, and sends it later with its own times", async () => {
    const port = new URL(server.address).port;
    const collector = start({ NUBREL_ADDRESS: "http://127.0.0.1:1" });
    await expect
      .poll(() => collector.said(), { timeout: 10_000 })
      .toContain("nothing listens at http://127.0.0.1:1; what was gathered is kept");
    await collector.stop();
    const waiting = readdirSync(join(state(), "spool")).length;
    expect(waiting).toBeGreaterThan(0);
    const firstMs = Number((readdirSync(join(state(), "spool")).sort()[0] as string).slice(0, 12)) * 1000;
    const again = start({ NUBREL_ADDRESS: `http://127.0.0.1:${port}` });
    await expect.poll(() => again.said(), { timeout: 15_000 }).toContain("sending works again");
    const reading = await owner.ask("POST", "/api/readings", {
      window: { from: firstMs - 1000, to: firstMs + 1000 },
      step: 1,
      sentences: { up: { counter: "system.memory.limit", where: [{ tag: "machine", is: ["hive"] }] } },
    });
    expect(reading.body.lines[0]?.values.some((value: number | null) => value !== null)).toBe(true);
    await again.stop();
  });
  test("what waits is bounded, and the loss is told", async () => {
    const collector = start({ NUBREL_ADDRESS: "http://127.0.0.1:1", NUBREL_SPOOL_KIB: "8" });
    await expect.poll(() => collector.said(), { timeout: 30_000 }).toContain("more than 8 KiB wait");
    await collector.stop();
  });
  test.each([
    ["a revoked token", () => ({ NUBREL_TOKEN: "nub_none" }), "the token is not known"],
    [
      "a name that is not known",
      () => ({ NUBREL_ADDRESS: "http://studio.invalid" }),
      "no address is known for the name",
    ],
  ])("says in words what %s does", async (_name, env, words) => {
    rmSync(state(), { recursive: true, force: true });
    const collector = start(env());
    await expect.poll(() => collector.said(), { timeout: 15_000 }).toContain(words);
    await collector.stop();
  });
  test("starts few programs at a look: what it costs of a processor is measured by npm run bench", async () => {
    // Stand before the real ones and write down each start; other programs there are none, so that no pool or drive is
    // asked.
    const bin = join(folder, "few-bin");
    const log = join(folder, "few");
    mkdirSync(bin, { recursive: true });
    for (const name of [
      "awk",
      "sed",
      "grep",
      "cat",
      "find",
      "stat",
      "date",
      "mkdir",
      "tr",
      "cut",
      "sort",
      "getconf",
      "uname",
      "rm",
      "mv",
      "ls",
      "head",
      "dd",
      "curl",
    ]) {
      const { stdout: real } = await run("sh", ["-c", `command -v ${name}`]);
      writeFileSync(join(bin, name), `#!/bin/dash\nprintf '%s\\n' "${name} $*" >> ${log}\nexec ${real.trim()} "$@"\n`, {
        mode: 0o755,
      });
    }
    const { stdout } = await run("/bin/dash", [script, "try"], {
      env: { PATH: bin, NUBREL_STATE: join(folder, "few-state") },
    });
    expect(stdout).toContain("system_cpu_time");
    const started = readFileSync(log, "utf8")
      .split("\n")
      .filter((line) => /^[a-z]+ /.test(line));
    const aroundFilesystems = started.filter((line) => line.startsWith("stat ") || line.includes(" mount="));
    expect(started.length - aroundFilesystems.length).toBeLessThanOrEqual(10);
    expect(started.length).toBeGreaterThan(3);
  });
});

test("its token stands on no command line while it sends", async () => {
  const { body: source } = await owner.ask("POST", "/api/sources", {
    kind: "collector",
    name: "quiet",
    machine: "quiet",
    intervalMs: 5000,
  });
  const { token } = (await owner.ask("POST", "/api/tokens", { name: "quiet", scope: "write", sourceId: source.id }))
    .body;
  // Stands before the real curl and writes down what everybody on the machine would see.
  const bin = join(folder, "seen-bin");
  mkdirSync(bin, { recursive: true });
  const { stdout: curl } = await run("sh", ["-c", "command -v curl"]);
  writeFileSync(
    join(bin, "curl"),
    `#!/bin/sh\ntr '\\0' ' ' < /proc/$$/cmdline >> ${folder}/seen\nexec ${curl.trim()} "$@"\n`,
    { mode: 0o755 },
  );
  const child = spawn("dash", [script, "run"], {
    env: {
      PATH: `${bin}:${process.env["PATH"]}`,
      NUBREL_STATE: join(folder, "quiet"),
      NUBREL_TOKEN: token,
      NUBREL_ADDRESS: server.address,
      NUBREL_INTERVAL: "1",
      NUBREL_SLOW_EVERY: "1000",
      NUBREL_DRIVES_EVERY: "1000",
    },
  });
  await expect
    .poll(async () => (await owner.ask("GET", `/api/sources/${source.id}`)).body.taken, { timeout: 20_000 })
    .toBeGreaterThan(10);
  child.kill("SIGTERM");
  const seen = readFileSync(join(folder, "seen"), "utf8");
  expect(seen).toContain("/api/push/openmetrics");
  expect(seen).not.toContain(token);
  // The same for Windows, as it is handed out.
  const batch = await (
    await fetch(`${server.address}/collector/windows`, { headers: { Authorization: `Bearer ${token}` } })
  ).text();
  const lines = batch.split("\r\n").filter((line) => /^(set "CURL=|%CURL%)/.test(line));
  expect(lines).toHaveLength(4);
  for (const line of lines) expect(line).not.toMatch(/TOKEN|Bearer/);
});
