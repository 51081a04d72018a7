import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { readingsOf } from "../testing/readings-of.ts";
import { readMdstat } from "./mdstat.ts";
import { readBtrfsDeviceStats, readBtrfsUsage, readZfsList, readZpoolList } from "./pools.ts";
import { drivesOfScan, readSmartctl } from "./smartctl.ts";

const fixture = (name: string) => readFileSync(new URL(`../testing/fixtures/${name}`, import.meta.url), "utf8");

describe("software arrays (md(4); /proc/mdstat of a guest's kernel)", () => {
  test.each([
    ["mdstat-clean", { "storage.array.healthy{array=md0}": 1, "storage.array.members{array=md0,state=wanted}": 2, "storage.array.members{array=md0,state=present}": 2, "storage.array.members{array=md0,state=failed}": 0, "storage.array.limit{array=md0}": 64_512 * 1024, "storage.array.sync{array=md0}": 1 }],
    ["mdstat-degraded", { "storage.array.healthy{array=md0}": 0, "storage.array.members{array=md0,state=wanted}": 2, "storage.array.members{array=md0,state=present}": 1, "storage.array.members{array=md0,state=failed}": 1, "storage.array.limit{array=md0}": 64_512 * 1024, "storage.array.sync{array=md0}": 1 }],
    ["mdstat-sync", { "storage.array.healthy{array=md0}": 1, "storage.array.members{array=md0,state=wanted}": 2, "storage.array.members{array=md0,state=present}": 2, "storage.array.members{array=md0,state=failed}": 0, "storage.array.limit{array=md0}": 64_512 * 1024, "storage.array.sync{array=md0}": 0.023 }],
  ])("%s", (name, expected) => {
    expect(readingsOf((emit) => readMdstat(fixture(name), emit))).toEqual(expected);
  });
  test("several arrays, one without redundancy, one stopped; nothing of what is no array", () => {
    const text = "Personalities : [raid0] [raid6]\nmd127 : active raid0 sdb[1] sda[0]\n      1024 blocks super 1.2 512k chunks\n\nmd5 : inactive sdc[0](S)\n      99 blocks super 1.2\n\nunused devices: <none>\n";
    const readings = readingsOf((emit) => readMdstat(text, emit));
    expect(readings["storage.array.healthy{array=md127}"]).toBe(1);
    expect(readings["storage.array.healthy{array=md5}"]).toBe(0);
    expect(readings["storage.array.limit{array=md127}"]).toBe(1_048_576);
    expect(readingsOf((emit) => readMdstat("Personalities : \nunused devices: <none>\n", emit))).toEqual({});
  });
});

describe("pools", () => {
  test("zpool list -Hp: sizes, health by its word, fragmentation; a pool that is away has no sizes (zpool-list(8))", () => {
    expect(readingsOf((emit) => readZpoolList("archive\t8000000000\t6000000000\t2000000000\tONLINE\t31\nwork\t100\t40\t60\tDEGRADED\t-\nlost\t-\t-\t-\tUNAVAIL\t-\n", emit))).toEqual({
      "storage.pool.limit{pool=archive}": 8e9, "storage.pool.usage{pool=archive,state=used}": 6e9, "storage.pool.usage{pool=archive,state=free}": 2e9, "storage.pool.healthy{pool=archive}": 1, "storage.pool.fragmentation{pool=archive}": 0.31,
      "storage.pool.limit{pool=work}": 100, "storage.pool.usage{pool=work,state=used}": 40, "storage.pool.usage{pool=work,state=free}": 60, "storage.pool.healthy{pool=work}": 0,
      "storage.pool.healthy{pool=lost}": 0,
    });
  });
  test("zfs list -Hp: a dataset belongs to the pool before its first slash", () => {
    expect(readingsOf((emit) => readZfsList("archive\t10\t90\narchive/shows/2026\t7\t90\nno datasets available\n", emit))).toEqual({ "storage.dataset.usage{dataset=archive,pool=archive}": 10, "storage.dataset.usage{dataset=archive/shows/2026,pool=archive}": 7 });
  });
  test("btrfs: what its tools say of a pool of two devices", () => {
    const readings = readingsOf((emit) => {
      readBtrfsUsage(fixture("btrfs-usage.txt"), "/srv", emit);
      readBtrfsDeviceStats(fixture("btrfs-device-stats.json"), "/srv", emit);
    });
    expect(readings).toMatchObject({ "storage.pool.limit{pool=/srv}": 536_870_912, "storage.pool.usage{pool=/srv,state=used}": 42_303_488, "storage.pool.usage{pool=/srv,state=free}": 205_520_896, "storage.pool.healthy{pool=/srv}": 1, "storage.device.errors{device=loop1,pool=/srv,type=corruption}": 0 });
    const worse = fixture("btrfs-device-stats.json").replace('"corruption_errs": "0"', '"corruption_errs": "3"');
    expect(readingsOf((emit) => readBtrfsDeviceStats(worse, "/srv", emit))).toMatchObject({ "storage.pool.healthy{pool=/srv}": 0, "storage.device.errors{device=loop0,pool=/srv,type=corruption}": 3 });
  });
});

describe("drives (smartctl's own output)", () => {
  test("ATA: health, temperature, hours, sectors", () => {
    expect(readingsOf((emit) => readSmartctl(fixture("smartctl-ata.json"), "sda", emit))).toEqual({ "drive.healthy{device=sda}": 1, "hw.temperature{sensor=drive sda}": 31, "drive.power_on_time{device=sda}": 3600, "drive.bad_sectors{device=sda,type=reallocated}": 0 });
  });
  test("NVMe: wear and what was written; its data unit is a thousand blocks of 512 bytes", () => {
    const report = JSON.parse(fixture("smartctl-nvme.json"));
    report.nvme_smart_health_information_log.percentage_used = 12;
    report.nvme_smart_health_information_log.data_units_written = 3;
    expect(readingsOf((emit) => readSmartctl(JSON.stringify(report), "nvme0", emit))).toMatchObject({ "drive.wear{device=nvme0}": 0.12, "drive.written{device=nvme0}": 1_536_000, "drive.media_errors{device=nvme0}": 0, "drive.healthy{device=nvme0}": 1 });
  });
  test("a device that it cannot read gives nothing; a scan without devices is empty", () => {
    expect(readingsOf((emit) => readSmartctl('{"smartctl":{"exit_status":2}}', "vda", emit))).toEqual({});
    expect(drivesOfScan('{"smartctl":{}}')).toEqual([]);
    expect(readingsOf((emit) => readSmartctl("smartctl 7.3", "sda", emit))).toEqual({});
    expect(drivesOfScan("smartctl 7.3")).toEqual([]);
  });
});
