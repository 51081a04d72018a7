import { readingsOf } from "../testing/readings-of.ts";
import { SocketBytes } from "./socket-bytes.ts";
import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import type { Emit } from "../../counters/counter.ts";
import { seriesKey } from "../../counters/series-key.ts";
import { catalogue } from "../../counters/catalogue.ts";
import { emitFilesystem } from "./filesystem-space.ts";
import { readProcDiskstats } from "./proc-diskstats.ts";
import { readProcMeminfo } from "./proc-meminfo.ts";
import { parseProcMounts } from "./proc-mounts.ts";
import { readProcNetDev } from "./proc-net-dev.ts";
import { readProcNetTcp } from "./proc-net-tcp.ts";
import { readPressure, readProcLoadavg, readProcUptime, readTemperature } from "./proc-small.ts";
import { readProcStat } from "./proc-stat.ts";
import { readProcVmstat } from "./proc-vmstat.ts";
import { emitTopProcesses, pageBytesOf, parseProcessStat, processKey, ticksOf } from "./process-stat.ts";

const fixture = (name: string) => readFileSync(new URL(`../testing/fixtures/${name}`, import.meta.url), "utf8");

function gathered(read: (emit: Emit) => void): Record<string, number> {
  const found: Record<string, number> = {};
  read((counter, tags, value) => {
    expect(catalogue.has(counter), counter).toBe(true);
    const key = seriesKey(counter, tags);
    expect(found, `${key} is given twice`).not.toHaveProperty([key]);
    found[key] = value;
  });
  return found;
}

describe("/proc/stat (proc(5): columns user nice system idle iowait irq softirq steal guest guest_nice, in ticks of 1/100 s)", () => {
  test("a real kernel's, with total and core", () => {
    const found = gathered((emit) => readProcStat(fixture("proc-stat"), emit));
    expect(found).toMatchObject({
      'system.cpu.time{mode="user"}': 1.37,
      'system.cpu.time{mode="system"}': 7.1,
      'system.cpu.time{mode="idle"}': 18.73,
      'system.cpu.time{mode="iowait"}': 0.05,
      'system.cpu.core.time{cpu="0",mode="idle"}': 18.73,
      "system.cpu.logical.count{}": 1,
    });
  });
  test("an old kernel's line without steal: the mode is left out, not invented", () => {
    const found = gathered((emit) => readProcStat("cpu  10 0 20 30 1 2 3\nprocs_running 2\n", emit));
    expect(found).toHaveProperty(['system.cpu.time{mode="softirq"}'], 0.03);
    expect(Object.keys(found)).not.toContain('system.cpu.time{mode="steal"}');
  });
  test("guest time is inside user and is not given again: the modes add up to the ticks of the first eight columns", () => {
    const found = gathered((emit) => readProcStat("cpu  100 10 20 300 1 2 3 4 90 9\n", emit));
    expect(Object.values(found).reduce((a, b) => a + b)).toBeCloseTo(4.4, 10);
  });
});

describe("/proc/meminfo (proc(5): kB are 1024 bytes)", () => {
  test("used, cached, buffers and free add up to the size (hand-worked)", () => {
    const found = gathered((emit) =>
      readProcMeminfo(
        "MemTotal: 1000 kB\nMemFree: 200 kB\nBuffers: 50 kB\nCached: 300 kB\nSReclaimable: 25 kB\nSwapTotal: 0 kB\nSwapFree: 0 kB\n",
        emit,
      ),
    );
    expect(found).toMatchObject({
      'system.memory.usage{state="used"}': 425 * 1024,
      'system.memory.usage{state="shared"}': 0,
      'system.memory.usage{state="cached"}': 325 * 1024,
      'system.memory.usage{state="buffers"}': 50 * 1024,
      'system.memory.usage{state="free"}': 200 * 1024,
      "system.memory.limit{}": 1000 * 1024,
    });
    expect(Object.keys(found).some((key) => key.startsWith("system.paging"))).toBe(false);
  });
  test("used is the total minus what is available; 300 kB in a temporary file system are told apart, and are not cache (proc(5): Shmem, MemAvailable)", () => {
    const found = gathered((emit) =>
      readProcMeminfo(
        "MemTotal: 1000 kB\nMemFree: 200 kB\nMemAvailable: 350 kB\nBuffers: 50 kB\nCached: 430 kB\nShmem: 300 kB\nSReclaimable: 25 kB\n",
        emit,
      ),
    );
    expect(found).toMatchObject({
      'system.memory.usage{state="used"}': 350 * 1024,
      'system.memory.usage{state="shared"}': 300 * 1024,
      'system.memory.usage{state="buffers"}': 50 * 1024,
      'system.memory.usage{state="cached"}': 100 * 1024,
      'system.memory.usage{state="free"}': 200 * 1024,
    });
  });
  test("a real kernel's", () => {
    const found = gathered((emit) => readProcMeminfo(fixture("proc-meminfo"), emit));
    const states = Object.entries(found).filter(([key]) => key.startsWith("system.memory.usage"));
    expect(states.reduce((sum, [, value]) => sum + value, 0)).toBe(468_356 * 1024);
    expect(found["system.memory.linux.available{}"]).toBe(412_052 * 1024);
  });
  test("without MemFree there is no breakdown", () => {
    expect(gathered((emit) => readProcMeminfo("MemTotal: 1000 kB\n", emit))).toEqual({
      "system.memory.limit{}": 1_024_000,
    });
  });
});

test("/proc/vmstat: pgfault counts major faults too, so minor is the difference; pgpgin is KiB (kernel, mm/vmstat.c)", () => {
  const found = gathered((emit) =>
    readProcVmstat("pgpgin 10\npgpgout 20\npswpin 3\npswpout 4\npgfault 100\npgmajfault 7\n", emit),
  );
  expect(found).toEqual({
    'system.paging.operations{direction="in"}': 3,
    'system.paging.operations{direction="out"}': 4,
    'system.paging.io{direction="in"}': 10_240,
    'system.paging.io{direction="out"}': 20_480,
    'system.paging.faults{type="major"}': 7,
    'system.paging.faults{type="minor"}': 93,
  });
});

test("/proc/diskstats: fields of the kernel's iostats.rst, sectors of 512 bytes; partitions and unused devices are left out", () => {
  const found = gathered((emit) =>
    readProcDiskstats(fixture("proc-diskstats"), emit, (name) => name === "vda" || name === "loop0"),
  );
  expect(found).toEqual({
    'system.disk.operations{device="vda",direction="read"}': 98,
    'system.disk.merged{device="vda",direction="read"}': 931,
    'system.disk.io{device="vda",direction="read"}': 129_352 * 512,
    'system.disk.operation_time{device="vda",direction="read"}': 0.2,
    'system.disk.operations{device="vda",direction="write"}': 21,
    'system.disk.merged{device="vda",direction="write"}': 0,
    'system.disk.io{device="vda",direction="write"}': 27 * 512,
    'system.disk.operation_time{device="vda",direction="write"}': 0.052,
    'system.disk.pending_operations{device="vda"}': 0,
    'system.disk.io_time{device="vda"}': 0.172,
    'system.disk.weighted_io_time{device="vda"}': 0.297,
  });
});

describe("/proc/net/tcp (proc(5)): connections by application protocol", () => {
  const line = (local: string, remote: string, state: string) =>
    `   0: ${local} ${remote} ${state} 00000000:00000000 00:00000000 00000000     0        0 1 1 0 20 4 30 10 -1\n`;
  const head = "  sl  local_address rem_address   st\n";
  const web = line("00000000:01BB", "00000000:0000", "0A");
  test("the port listened on decides, else the other side's; what is not open or stays in the machine is left out", () => {
    // 01BB is 443, 0016 is 22, 1538 is 5432, ABCD is 43981; addresses in the kernel's byte order.
    const tcp =
      head +
      web +
      line("0A14140A:01BB", "1514140A:ABCD", "01") +
      line("0A14140A:01BB", "1514140A:ABCE", "01") +
      line("0A14140A:C350", "1E14140A:1538", "01") +
      line("0100007F:C351", "0100007F:1538", "01") +
      line("0A14140A:C352", "1E14140A:0016", "06") +
      line("0A14140A:C353", "1E14140A:ABCD", "01");
    const tcp6 =
      head +
      line("0000000000000000FFFF00000A14140A:01BB", "0000000000000000FFFF00001514140A:ABCD", "01") +
      line("00000000000000000000000001000000:C351", "00000000000000000000000001000000:1538", "01");
    expect(gathered((emit) => readProcNetTcp([tcp, tcp6], emit))).toEqual({
      'system.network.connection.count{protocol="https",transport="tcp"}': 3,
      'system.network.connection.count{protocol="port 43981",transport="tcp"}': 1,
      'system.network.connection.count{protocol="postgresql",transport="tcp"}': 1,
    });
  });
  test("of very many protocols the twelve with most are named; none lost", () => {
    const many =
      head +
      Array.from({ length: 20 }, (_, i) =>
        line("0A14140A:C350", `1E14140A:${(50_000 + i).toString(16).toUpperCase()}`, "01"),
      ).join("");
    const found = gathered((emit) => readProcNetTcp([many, ""], emit));
    expect(Object.keys(found)).toHaveLength(13);
    expect(found['system.network.connection.count{protocol="others",transport="tcp"}']).toBe(8);
  });
  test.each(["", "garbage", `${head}x y`, `${head}   0: 0A14140A:ZZ 1E14140A:ZZ 01`])(
    "%j gives nothing and does not fail",
    (text) => expect(gathered((emit) => readProcNetTcp([text], emit))).toEqual({}),
  );
});

test("/proc/net/dev (proc(5)): the loopback is left out, a figure may touch the colon", () => {
  const bridged = gathered((emit) =>
    readProcNetDev(
      "h\nh\n  eth0:1000 5 6 7 0 0 0 0 4321 8 9 10 0 0 0 0\n  br0:990 5 0 0 0 0 0 0 4300 8 0 0 0 0 0 0\n",
      emit,
      (name) => name === "eth0",
    ),
  );
  expect(Object.keys(bridged).filter((key) => key.includes("br0"))).toEqual([
    'system.network.virtual.io{direction="receive",interface="br0"}',
    'system.network.virtual.io{direction="transmit",interface="br0"}',
  ]);
  expect(bridged['system.network.io{direction="receive",interface="eth0"}']).toBe(1000);
  expect(
    Object.keys(gathered((emit) => readProcNetDev(fixture("proc-net_dev"), emit))).every((key) =>
      key.includes('interface="eth0"'),
    ),
  ).toBe(true);
  const found = gathered((emit) =>
    readProcNetDev(
      "h\nh\n  lo: 1 1 0 0 0 0 0 0 1 1 0 0 0 0 0 0\neth0.7:1234 5 6 7 0 0 0 0 4321 8 9 10 0 0 0 0\n",
      emit,
    ),
  );
  expect(found).toEqual({
    'system.network.io{direction="receive",interface="eth0.7"}': 1234,
    'system.network.packet.count{direction="receive",interface="eth0.7"}': 5,
    'system.network.errors{direction="receive",interface="eth0.7"}': 6,
    'system.network.packet.dropped{direction="receive",interface="eth0.7"}': 7,
    'system.network.io{direction="transmit",interface="eth0.7"}': 4321,
    'system.network.packet.count{direction="transmit",interface="eth0.7"}': 8,
    'system.network.errors{direction="transmit",interface="eth0.7"}': 9,
    'system.network.packet.dropped{direction="transmit",interface="eth0.7"}': 10,
  });
});

test("the small files: load, uptime, pressure (psi.rst: total in microseconds), temperature (hwmon: thousandths of a degree)", () => {
  expect(gathered((emit) => readProcLoadavg(fixture("proc-loadavg"), emit))).toEqual({
    'system.cpu.load_average{over="1m"}': 0.18,
    'system.cpu.load_average{over="5m"}': 0.05,
    'system.cpu.load_average{over="15m"}': 0.01,
  });
  expect(gathered((emit) => readProcUptime("350735.47 234388.90\n", emit))).toEqual({ "system.uptime{}": 350_735.47 });
  expect(
    gathered((emit) =>
      readPressure(
        "io",
        "some avg10=0.00 avg60=0.00 avg300=0.00 total=2500000\nfull avg10=0.00 avg60=0.00 avg300=0.00 total=500000\n",
        emit,
      ),
    ),
  ).toEqual({
    'system.pressure.stalled_time{resource="io",who="some"}': 2.5,
    'system.pressure.stalled_time{resource="io",who="full"}': 0.5,
  });
  expect(gathered((emit) => readTemperature("coretemp Core 0", "46500\n", emit))).toEqual({
    'hw.temperature{sensor="coretemp Core 0"}': 46.5,
  });
  expect(gathered((emit) => readTemperature("x", "N/A\n", emit))).toEqual({});
});

test("/proc/mounts: disks only, each device once, octal escapes resolved (getmntent(3))", () => {
  const text =
    "proc /proc proc rw 0 0\n/dev/sda1 / ext4 rw,relatime 0 0\n/dev/sda1 /var/lib/again ext4 rw 0 0\ntmpfs /run tmpfs rw 0 0\n//nas/x /mnt/nas cifs rw 0 0\n/dev/sdb1 /srv/on\\040air xfs ro,noatime 0 0\nbroken line\n";
  expect(parseProcMounts(text)).toEqual([
    { device: "/dev/sda1", mountpoint: "/", type: "ext4", mode: "rw", options: ["rw", "relatime"] },
    { device: "/dev/sdb1", mountpoint: "/srv/on air", type: "xfs", mode: "ro", options: ["ro", "noatime"] },
  ]);
});

test("a filesystem's used, free and reserved space add up to its size (statvfs(3): f_bfree counts what only root may use)", () => {
  const mount = { device: "/dev/sda1", mountpoint: "/", type: "ext4", mode: "rw", options: ["rw"] } as const;
  const found = gathered((emit) =>
    emitFilesystem(mount, { bsize: 4096, blocks: 1000, bfree: 300, bavail: 250, files: 64, ffree: 60 }, emit),
  );
  const at = 'device="/dev/sda1",mountpoint="/"';
  expect(found).toEqual({
    [`system.filesystem.limit{${at},type="ext4"}`]: 4_096_000,
    [`system.filesystem.usage{${at},state="used",type="ext4"}`]: 700 * 4096,
    [`system.filesystem.usage{${at},state="free",type="ext4"}`]: 250 * 4096,
    [`system.filesystem.usage{${at},state="reserved",type="ext4"}`]: 50 * 4096,
    [`system.filesystem.inodes{${at},state="used",type="ext4"}`]: 4,
    [`system.filesystem.inodes{${at},state="free",type="ext4"}`]: 60,
  });
  expect(
    gathered((emit) =>
      emitFilesystem(mount, { bsize: 4096, blocks: 0, bfree: 0, bavail: 0, files: 0, ffree: 0 }, emit),
    ),
  ).toEqual({});
});

describe("/proc/PID/stat (proc(5))", () => {
  test("a page of memory is as large as the kernel says", () => {
    expect(
      pageBytesOf("aaaac0000000-aaaac0001000 r-xp 00000000 00:1f 1 /bin/x\nSize: 16 kB\nKernelPageSize:       16 kB\n"),
    ).toBe(16_384);
    expect([pageBytesOf(undefined), pageBytesOf("")]).toEqual([4096, 4096]);
  });
  const line = (pid: number, name: string, user: number, system: number, pages: number, start = 100) =>
    `${pid} (${name}) S 1 1 1 0 -1 4194304 1 2 3 4 ${user} ${system} 0 0 20 0 1 0 ${start} 1000000 ${pages} 18446744073709551615 0 0\n`;
  test("a name may hold spaces and brackets", () => {
    expect(parseProcessStat(line(7, "a (b) c", 11, 12, 13))).toEqual({
      pid: 7,
      name: "a (b) c",
      state: "S",
      userTicks: 11,
      systemTicks: 12,
      startTicks: 100,
      residentPages: 13,
    });
  });
  test.each(["", "7", "7 (cut", "7 (cut) S 1 1", "x (y) S a b c d e f g h i j k l m n o p q r s t u v w"])(
    "%j is not one",
    (text) => {
      expect(parseProcessStat(text)).toBeUndefined();
    },
  );
  test("the eight that used most since before, and the eight largest; one that was not seen before is not ranked by processor", () => {
    const before = Array.from({ length: 10 }, (_, i) => parseProcessStat(line(i + 1, `p${i + 1}`, 100, 0, 50 + i)));
    const now = [
      ...Array.from({ length: 10 }, (_, i) => parseProcessStat(line(i + 1, `p${i + 1}`, 100 + i * 10, i, 50 + i))),
      parseProcessStat(line(99, "new", 9999, 0, 1)),
      parseProcessStat(line(2, "p2 again", 5000, 0, 1, 777)),
    ];
    const ticks = new Map(before.map((stat) => [processKey(stat as never), ticksOf(stat as never)]));
    const found = gathered((emit) => emitTopProcesses(now as never, ticks, emit));
    const processor = Object.keys(found).filter((key) => key.startsWith("process.cpu.time"));
    expect(processor).toHaveLength(16);
    expect(found['process.cpu.time{mode="user",pid="10",process="p10"}']).toBe(1.9);
    expect(found['process.cpu.time{mode="system",pid="10",process="p10"}']).toBe(0.09);
    expect(processor.some((key) => key.includes('"p2"') || key.includes("new") || key.includes("again"))).toBe(false);
    const memory = Object.keys(found).filter((key) => key.startsWith("process.memory.usage"));
    expect(memory).toHaveLength(8);
    expect(found['process.memory.usage{pid="10",process="p10"}']).toBe(59 * 4096);
  });
});

describe("ss -tinHO (ss(8)): bytes of TCP connections by application protocol", () => {
  const line = (local: string, remote: string, sent: number, received: number) =>
    `0      0      ${local}  ${remote} cubic wscale:7,7 rto:204 rtt:0.05/0.02 mss:1448 bytes_sent:${sent} bytes_acked:${sent} bytes_received:${received} segs_out:5 segs_in:4\n`;
  const told = (sockets: SocketBytes, text: string) =>
    Object.fromEntries(
      Object.entries(readingsOf((emit) => sockets.read(text, emit))).map(([key, value]) => [
        `${/direction=(\w)/.exec(key)?.[1]} ${/protocol=([^,}]+)/.exec(key)?.[1]}`,
        value,
      ]),
    );
  test("what a connection carried before the first look is nobody's; then it is added up, also over connections that end and begin", () => {
    const sockets = new SocketBytes();
    expect(told(sockets, line("10.0.0.1:22", "10.0.0.9:50000", 1000, 500))).toEqual({ "r ssh": 0, "t ssh": 0 });
    expect(
      told(
        sockets,
        line("10.0.0.1:22", "10.0.0.9:50000", 1700, 600) + line("10.0.0.1:41000", "192.0.2.7:443", 30, 9000),
      ),
    ).toEqual({ "r ssh": 100, "t ssh": 700, "r https": 9000, "t https": 30 });
    expect(told(sockets, line("[fd00::1]:41002", "[fd00::7]:443", 5, 7))).toEqual({
      "r ssh": 100,
      "t ssh": 700,
      "r https": 9007,
      "t https": 35,
    });
    // The same places, a new connection: its count begins anew.
    expect(told(sockets, line("[fd00::1]:41002", "[fd00::7]:443", 1, 2))).toEqual({
      "r ssh": 100,
      "t ssh": 700,
      "r https": 9009,
      "t https": 36,
    });
  });
  test("connections within the machine, and what is no such line, are passed over", () => {
    expect(
      told(
        new SocketBytes(),
        `${line("127.0.0.1:22", "127.0.0.1:50000", 1, 1)}${line("[::1]:22", "[::1]:50000", 1, 1)}${line("[::ffff:127.0.0.1]:22", "[::ffff:127.0.0.1]:5", 1, 1)}no such thing\n`,
      ),
    ).toEqual({});
  });
});
