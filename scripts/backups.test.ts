import { mkdtempSync, readdirSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { backupSettings, backupsIn, keepBackups, nextBackupMs } from "./backups.mjs";

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-backups-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe("what is said of them", () => {
  test("nothing, a folder, and all of it", () => {
    expect(backupSettings({})).toBeUndefined();
    expect(backupSettings({ NUBREL_BACKUP_TO: "/srv/b" })).toEqual({ folder: "/srv/b", hour: 3, minute: 30, keep: 7 });
    const all = { NUBREL_BACKUP_TO: "/srv/b", NUBREL_BACKUP_AT: "23:05", NUBREL_BACKUP_KEEP: "30" };
    expect(backupSettings(all)).toEqual({ folder: "/srv/b", hour: 23, minute: 5, keep: 30 });
  });
  test.each([
    [{ NUBREL_BACKUP_TO: "b" }, "must be a whole path"],
    [{ NUBREL_BACKUP_TO: "/b", NUBREL_BACKUP_AT: "24:00" }, "is no clock time"],
    [{ NUBREL_BACKUP_TO: "/b", NUBREL_BACKUP_AT: "3.30" }, "is no clock time"],
    [{ NUBREL_BACKUP_TO: "/b", NUBREL_BACKUP_KEEP: "0" }, "from 1 to 1000"],
    [{ NUBREL_BACKUP_TO: "/b", NUBREL_BACKUP_KEEP: "many" }, "from 1 to 1000"],
  ])("%j is told", (env, words) => {
    expect(() => backupSettings(env)).toThrow(words);
  });
});

describe("when one is due", () => {
  const at = { hour: 3, minute: 30 };
  const ms = (text: string) => new Date(text).getTime(); // without a zone: by this machine's clock
  test.each([
    ["2026-05-01T03:29:00", "2026-05-01T03:30:00"],
    ["2026-05-01T03:30:00", "2026-05-02T03:30:00"],
    ["2026-05-01T14:00:00", "2026-05-02T03:30:00"],
    ["2026-12-31T23:59:00", "2027-01-01T03:30:00"],
  ])("after one of %s: %s", (last, due) => {
    expect(nextBackupMs(at, ms(last), undefined)).toBe(ms(due));
  });
  test("at once where there is none; an hour after a failure", () => {
    expect(nextBackupMs(at, undefined, undefined)).toBe(0);
    const failed = ms("2026-05-02T03:31:00");
    expect(nextBackupMs(at, undefined, failed)).toBe(failed + 3_600_000);
    expect(nextBackupMs(at, ms("2026-05-01T03:30:00"), failed)).toBe(failed + 3_600_000);
    expect(nextBackupMs(at, ms("2026-05-01T04:00:00"), ms("2026-05-01T05:00:00"))).toBe(ms("2026-05-02T03:30:00"));
  });
});

describe("keeping them", () => {
  const settings = () => ({ folder, hour: 3, minute: 30, keep: 2 });
  const old = (name: string, day: number) => {
    writeFileSync(join(folder, name), "x".repeat(day));
    utimesSync(join(folder, name), new Date(2026, 4, day), new Date(2026, 4, day));
  };

  test("one is taken where none is, and told; the oldest beyond the number go, and nothing else does", async () => {
    old("nubrel-2026-05-01T03-30.backup", 1);
    old("nubrel-2026-05-02T03-30.backup", 2);
    old("nubrel-2026-05-03T03-30.backup.part", 3);
    old("letters.txt", 1);
    old("nubrel-before-the-move.backup", 1);
    const told: { lastAtMs: number | null; kept: number; bytes: number | null; problem: string | null }[] = [];
    const end = keepBackups(
      settings(),
      async (file) => writeFileSync(file, "whole"),
      (now) => told.push(now),
      {
        everyMs: 2,
      },
    );
    await vi.waitFor(() => expect(told).toHaveLength(2), { timeout: 5000 });
    await end();
    expect(told[0]).toMatchObject({ lastAtMs: new Date(2026, 4, 2).getTime(), kept: 2, bytes: 2, problem: null });
    expect(told[1]).toMatchObject({ kept: 2, bytes: 5, problem: null });
    const names = readdirSync(folder).sort();
    expect(names).toHaveLength(4);
    expect(names).not.toContain("nubrel-2026-05-01T03-30.backup");
    expect(names).toContain("nubrel-before-the-move.backup");
  });

  test("a failure is told with its reason, takes none of those before away, and is tried again an hour later", async () => {
    old("nubrel-2026-05-01T03-30.backup", 1);
    old("nubrel-2026-05-02T03-30.backup", 2);
    old("nubrel-2026-05-03T03-30.backup", 3);
    let nowMs = new Date(2026, 4, 6, 12).getTime();
    let tries = 0;
    const told: { nextAtMs: number; problem: string | null }[] = [];
    const take = async () => {
      tries++;
      throw Object.assign(new Error("no room"), { code: "ENOSPC" });
    };
    const end = keepBackups(settings(), take, (now) => told.push(now), { everyMs: 2, nowMs: () => nowMs });
    await vi.waitFor(() => expect(told).toHaveLength(2), { timeout: 5000 });
    expect(told[1]).toMatchObject({ problem: `the disk that holds ${folder} is full`, nextAtMs: nowMs + 3_600_000 });
    expect(backupsIn(folder)).toHaveLength(3);
    expect(tries).toBe(1);
    nowMs += 3_600_001;
    await vi.waitFor(() => expect(tries).toBe(2), { timeout: 5000 });
    await end();
  });
});
