import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { beforeAll, describe, expect, test } from "vitest";
import type { ReadingDocument } from "../../../core/reading/document.ts";
import { evaluateReading, type SeriesColumn } from "../../../core/reading/evaluate.ts";
import * as common from "../../../core/reading/common-readings.ts";
import { counterInfo } from "../../../core/counters/catalogue.ts";
import type { Reading } from "../../../core/counters/reading.ts";
import { machineFiles } from "./machine-files.ts";
import { MachineGatherer } from "./machine-gatherer.ts";

// The machine that runs the tests is gathered for real, and what its own tools say is the oracle: free (procps), df
// (coreutils), iostat (sysstat).
const told = (command: string, ...args: readonly string[]) =>
  execFileSync(command, [...args], { encoding: "utf8", env: { ...process.env, LC_ALL: "C" } });
let readings: readonly Reading[];
let free: readonly number[];
let df: readonly string[];
let iostat: readonly { readonly disk_device: string; readonly kB_read: number; readonly kB_wrtn: number }[];

/** The newest value of each line of a reading over what was gathered. */
function answered(document: Omit<ReadingDocument, "window">): ReturnType<typeof evaluateReading>["lines"] {
  const of = (counter: string): SeriesColumn[] =>
    readings
      .filter((one) => one.counter === counter)
      .map(({ tags, value }) => ({
        tags: { machine: "this", ...tags },
        unit: counterInfo(counter).unit,
        kind: counterInfo(counter).kind,
        column: { timeMs: Float64Array.of(0, 1000), value: Float64Array.of(value, value) },
      }));
  const found = Object.fromEntries(
    Object.entries(document.sentences).map(([name, { counter, where = [] }]) => [
      name,
      of(counter).filter(({ tags }) => where.every(({ tag, is }) => is === undefined || is.includes(tags[tag] ?? ""))),
    ]),
  );
  return evaluateReading({ ...document, window: { from: 0, to: 1000 }, step: 1 }, found).lines;
}

// As an ordinary user the tools may be missing: the test command says so.
const areThere = ["/usr/bin/free", "/usr/bin/iostat"].every((tool) => existsSync(tool));

describe.skipIf(!areThere)("this machine's own tools", () => {
  beforeAll(async () => {
    const gatherer = new MachineGatherer(machineFiles());
    free = (told("free", "-b").split("\n")[1] as string).split(/\s+/).slice(1).map(Number);
    readings = await gatherer.gather();
    df = told("df", "-P", "-B1").trim().split("\n").slice(1);
    iostat = JSON.parse(told("iostat", "-d", "-k", "-o", "JSON")).sysstat.hosts[0].statistics[0].disk;
  });
  test("free: total, used (which is total minus available) and shared memory", () => {
    const [total, used, , shared] = free as [number, number, number, number];
    const state = (name: string) =>
      readings.find(({ counter, tags }) => counter === "system.memory.usage" && tags["state"] === name)?.value ??
      Number.NaN;
    expect(readings.find(({ counter }) => counter === "system.memory.limit")?.value).toBe(total);
    expect(Math.abs(state("used") + state("shared") - used) / total).toBeLessThan(0.01);
    expect(Math.abs(state("shared") - shared) / total).toBeLessThan(0.005);
    expect(["used", "shared", "buffers", "cached", "free"].reduce((sum, name) => sum + state(name), 0)).toBe(total);
    expect(answered(common.memoryUsed())[0]?.values[0]).toBeCloseTo((used / total) * 100, 0);
  });
  test("df: the share of each filesystem that is used, as its column Capacity rounds it up", () => {
    const lines = answered(common.filesystemUsed());
    expect(lines.length).toBeGreaterThan(0);
    for (const { tags, values } of lines) {
      const row = df.map((line) => line.split(/\s+/)).find((fields) => fields[5] === tags["mountpoint"]);
      expect(row, tags["mountpoint"]).toBeDefined();
      expect(
        Math.abs(Math.ceil((values[0] as number) - 1e-6) - Number.parseInt(row?.[4] as string, 10)),
      ).toBeLessThanOrEqual(1);
    }
  });
  test("iostat: bytes read and written by each disk since the start", () => {
    const bytes = (device: string, direction: string) =>
      readings.find(
        ({ counter, tags }) =>
          counter === "system.disk.io" && tags["device"] === device && tags["direction"] === direction,
      )?.value;
    const disks = iostat.filter(({ disk_device }) => bytes(disk_device, "read") !== undefined);
    expect(disks.length).toBe(
      new Set(readings.filter(({ counter }) => counter === "system.disk.io").map(({ tags }) => tags["device"])).size,
    );
    for (const { disk_device, kB_read, kB_wrtn } of disks) {
      expect((bytes(disk_device, "read") as number) / 1024 / Math.max(1, kB_read)).toBeCloseTo(1, 2);
      expect((bytes(disk_device, "write") as number) / 1024 / Math.max(1, kB_wrtn)).toBeCloseTo(1, 2);
    }
  });
});
