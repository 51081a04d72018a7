import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { readingsOf } from "../testing/readings-of.ts";
import { readBtrfs } from "./btrfs.ts";
import { readMdstat } from "./mdstat.ts";
import { readZfsList, readZpools } from "./pools.ts";
import { drivesOfScan, readSmartctl } from "./smartctl.ts";

const fixture = (name: string) => readFileSync(new URL(`../testing/fixtures/${name}`, import.meta.url), "utf8");

/** Each reason as the key that it is kept under. */
const troubles = (what: string, tags: string, whys: Readonly<Record<string, number>>) =>
  Object.fromEntries(Object.entries(whys).map(([why, is]) => [`${what}.trouble{${tags},why=${why}}`, is]));

describe("software arrays (md(4); /proc/mdstat of a guest's kernel)", () => {
  test.each([
    [
      "mdstat-clean",
      {
        ...troubles("storage.array", "array=md0", { "failed member": 0, "missing member": 0, "not active": 0 }),
        "storage.array.healthy{array=md0}": 1,
        "storage.array.members{array=md0,state=wanted}": 2,
        "storage.array.members{array=md0,state=present}": 2,
        "storage.array.members{array=md0,state=failed}": 0,
        "storage.array.limit{array=md0}": 64_512 * 1024,
        "storage.array.sync{array=md0}": 1,
      },
    ],
    [
      "mdstat-degraded",
      {
        ...troubles("storage.array", "array=md0", { "failed member": 1, "missing member": 1, "not active": 0 }),
        "storage.array.healthy{array=md0}": 0,
        "storage.array.members{array=md0,state=wanted}": 2,
        "storage.array.members{array=md0,state=present}": 1,
        "storage.array.members{array=md0,state=failed}": 1,
        "storage.array.limit{array=md0}": 64_512 * 1024,
        "storage.array.sync{array=md0}": 1,
      },
    ],
    [
      "mdstat-sync",
      {
        ...troubles("storage.array", "array=md0", { "failed member": 0, "missing member": 0, "not active": 0 }),
        "storage.array.healthy{array=md0}": 1,
        "storage.array.members{array=md0,state=wanted}": 2,
        "storage.array.members{array=md0,state=present}": 2,
        "storage.array.members{array=md0,state=failed}": 0,
        "storage.array.limit{array=md0}": 64_512 * 1024,
        "storage.array.sync{array=md0}": 0.023,
      },
    ],
  ])("%s", (name, expected) => {
    expect(readingsOf((emit) => readMdstat(fixture(name), emit))).toEqual(expected);
  });
  test("several arrays, one without redundancy, one stopped; nothing of what is no array", () => {
    const text =
      "Personalities : [raid0] [raid6]\nmd127 : active raid0 sdb[1] sda[0]\n      1024 blocks super 1.2 512k chunks\n\nmd5 : inactive sdc[0](S)\n      99 blocks super 1.2\n\nunused devices: <none>\n";
    const readings = readingsOf((emit) => readMdstat(text, emit));
    expect(readings["storage.array.healthy{array=md127}"]).toBe(1);
    expect(readings).toMatchObject({
      "storage.array.healthy{array=md5}": 0,
      ...troubles("storage.array", "array=md5", { "not active": 1, "failed member": 0 }),
    });
    expect(readings["storage.array.limit{array=md127}"]).toBe(1_048_576);
    expect(readingsOf((emit) => readMdstat("Personalities : \nunused devices: <none>\n", emit))).toEqual({});
  });
});

describe("pools", () => {
  const zpools = (list: string, status?: string) => readingsOf((emit) => readZpools(list, status, emit));
  test("zpool list -Hp: sizes, health by its word, fragmentation; a pool that is away has no sizes (zpool-list(8))", () => {
    const unwell = (pool: string, whys: Readonly<Record<string, number>>) =>
      troubles("storage.pool", `pool=${pool}`, {
        degraded: 0,
        "not available": 0,
        "device errors": 0,
        "lost data": 0,
        ...whys,
      });
    expect(
      zpools(
        "archive\t8000000000\t6000000000\t2000000000\tONLINE\t31\nwork\t100\t40\t60\tDEGRADED\t-\nlost\t-\t-\t-\tUNAVAIL\t-\n",
      ),
    ).toEqual({
      "storage.pool.limit{pool=archive}": 8e9,
      "storage.pool.usage{pool=archive,state=used}": 6e9,
      "storage.pool.usage{pool=archive,state=free}": 2e9,
      "storage.pool.healthy{pool=archive}": 1,
      "storage.pool.fragmentation{pool=archive}": 0.31,
      ...unwell("archive", {}),
      "storage.pool.limit{pool=work}": 100,
      "storage.pool.usage{pool=work,state=used}": 40,
      "storage.pool.usage{pool=work,state=free}": 60,
      "storage.pool.healthy{pool=work}": 0,
      ...unwell("work", { degraded: 1 }),
      "storage.pool.healthy{pool=lost}": 0,
      ...unwell("lost", { "not available": 1 }),
    });
  });
  test("zpool status -p: a pool that is ONLINE is unwell with errors of a device, or data that cannot be read (form of the text from memory; zpoolconcepts(7) names what stands in it)", () => {
    const readings = zpools("archive\t8\t6\t2\tONLINE\t31\nwork\t8\t6\t2\tDEGRADED\t31\n", fixture("zpool-status.txt"));
    expect(readings).toMatchObject({
      "storage.pool.healthy{pool=archive}": 0,
      ...troubles("storage.pool", "pool=archive", { degraded: 0, "device errors": 1, "lost data": 0 }),
      ...troubles("storage.pool", "pool=work", { degraded: 1, "device errors": 0, "lost data": 1 }),
    });
    const devices = Object.keys(readings).filter(
      (key) => key.startsWith("storage.device.errors") && key.includes("type=checksum"),
    );
    expect(devices.map((key) => [/device=([^,]+)/.exec(key)?.[1], readings[key]])).toEqual([
      ["sda", 16],
      ["sdb", 0],
      ["nvme0n1p2", 0],
      ["sdc", 0],
      ["1234567890123456789", 0],
      ["sde", 0],
    ]);
  });
  test("zfs list -Hp: a dataset belongs to the pool before its first slash", () => {
    expect(
      readingsOf((emit) => readZfsList("archive\t10\t90\narchive/shows/2026\t7\t90\nno datasets available\n", emit)),
    ).toEqual({
      "storage.dataset.usage{dataset=archive,pool=archive}": 10,
      "storage.dataset.usage{dataset=archive/shows/2026,pool=archive}": 7,
    });
  });
  const [usage, stats] = [fixture("btrfs-usage.txt"), fixture("btrfs-device-stats.json")];
  const btrfs = (texts: { readonly usage?: string; readonly stats?: string; readonly options?: readonly string[] }) =>
    readingsOf((emit) => readBtrfs({ options: ["rw"], ...texts }, "/srv", emit));
  test("btrfs: what its tools say of a mirror of two devices, in usable bytes: 20 MiB were written to it", () => {
    const readings = btrfs({ usage, stats });
    // "Used" is 42,303,488: 20 MiB and what describes them, twice. "Free (statfs, df)" is what a file of it can grow
    // to.
    expect(readings).toMatchObject({
      "storage.pool.usage{pool=/srv,state=used}": 21_151_744,
      "storage.pool.usage{pool=/srv,state=free}": 204_472_320,
      "storage.pool.limit{pool=/srv}": 225_624_064,
      "storage.pool.healthy{pool=/srv}": 1,
      "storage.device.errors{device=loop1,pool=/srv,type=corruption}": 0,
    });
  });
  test.each([
    ["missing device", { usage: usage.replace(/(Device missing:\s+)0/, "$1268435456") }],
    ["degraded", { usage, options: ["rw", "relatime", "degraded"] }],
    ["read-only", { usage, options: ["ro", "relatime"] }],
    ["device errors", { usage, stats: stats.replace('"corruption_errs": "0"', '"corruption_errs": "3"') }],
  ])("btrfs is unwell: %s", (why, texts) => {
    expect(btrfs(texts)).toMatchObject({
      "storage.pool.healthy{pool=/srv}": 0,
      ...troubles("storage.pool", "pool=/srv", {
        "missing device": 0,
        degraded: 0,
        "read-only": 0,
        "device errors": 0,
        [why]: 1,
      }),
    });
  });
  test("btrfs without one of its tools' answers tells what the other said; without both nothing", () => {
    expect(btrfs({ stats: stats.replace('"corruption_errs": "0"', '"corruption_errs": "3"') })).toMatchObject({
      "storage.pool.healthy{pool=/srv}": 0,
      "storage.device.errors{device=loop0,pool=/srv,type=corruption}": 3,
    });
    expect(btrfs({ usage: "ERROR: not a btrfs filesystem", stats: "{}" })).toEqual({});
  });
});

interface Report {
  smart_status?: { passed: boolean };
  ata_smart_attributes?: { table: object[] };
  nvme_smart_health_information_log?: object;
}

describe("drives (smartctl's own output)", () => {
  test("ATA: health, temperature, hours, sectors", () => {
    expect(readingsOf((emit) => readSmartctl(fixture("smartctl-ata.json"), "sda", emit))).toEqual({
      "drive.healthy{device=sda}": 1,
      ...troubles("drive", "device=sda", {
        "its own verdict": 0,
        "attribute at its threshold": 0,
        "critical warning": 0,
      }),
      "hw.temperature{sensor=drive sda}": 31,
      "drive.power_on_time{device=sda}": 3600,
      "drive.bad_sectors{device=sda,type=reallocated}": 0,
    });
  });
  test("NVMe: wear and what was written; its data unit is a thousand blocks of 512 bytes", () => {
    const report = JSON.parse(fixture("smartctl-nvme.json"));
    report.nvme_smart_health_information_log.percentage_used = 12;
    report.nvme_smart_health_information_log.data_units_written = 3;
    expect(readingsOf((emit) => readSmartctl(JSON.stringify(report), "nvme0", emit))).toMatchObject({
      "drive.wear{device=nvme0}": 0.12,
      "drive.written{device=nvme0}": 1_536_000,
      "drive.media_errors{device=nvme0}": 0,
      "drive.healthy{device=nvme0}": 1,
    });
  });
  test.each([
    ["its own verdict", "smartctl-ata.json", (report: Report) => (report.smart_status = { passed: false })],
    [
      "attribute at its threshold",
      "smartctl-ata.json",
      (report: Report) => Object.assign(report.ata_smart_attributes?.table[0] ?? {}, { when_failed: "now" }),
    ],
    [
      "critical warning",
      "smartctl-nvme.json",
      (report: Report) => Object.assign(report.nvme_smart_health_information_log ?? {}, { critical_warning: 4 }),
    ],
  ])("a drive is unwell: %s (smartctl(8))", (why, name, worsen) => {
    const report = JSON.parse(fixture(name));
    worsen(report);
    expect(readingsOf((emit) => readSmartctl(JSON.stringify(report), "sda", emit))).toMatchObject({
      "drive.healthy{device=sda}": 0,
      ...troubles("drive", "device=sda", { [why]: 1 }),
    });
  });
  test("a device that it cannot read gives nothing; a scan without devices is empty", () => {
    expect(readingsOf((emit) => readSmartctl('{"smartctl":{"exit_status":2}}', "vda", emit))).toEqual({});
    expect(drivesOfScan('{"smartctl":{}}')).toEqual([]);
    expect(readingsOf((emit) => readSmartctl("smartctl 7.3", "sda", emit))).toEqual({});
    expect(drivesOfScan("smartctl 7.3")).toEqual([]);
  });
});
