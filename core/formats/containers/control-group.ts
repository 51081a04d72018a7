import type { Emit } from "../../counters/counter.ts";

/** Reads a file of a control group; undefined where it is missing. */
export type ReadControl = (controller: string, file: string) => string | undefined;

const words = (text: string | undefined) =>
  new Map(
    (text ?? "")
      .split("\n")
      .map((line) => line.trim().split(/\s+/))
      .flatMap(([name, value]) => (name && value !== undefined ? [[name, Number(value)] as const] : [])),
  );
const microseconds = 1e-6;
const nanoseconds = 1e-9;
/** Version 1 writes "no limit" as the largest number of pages. */
const noLimit = 2 ** 62;
/** USER_HZ, in which version 1 counts user and system time. */
const ticks = 100;

/**
 * A control group of version 2 (kernel: Documentation/admin-guide/cgroup-v2.rst). `read` is asked with "" for the
 * controller.
 */
export function readControlGroup2(read: ReadControl, tags: Readonly<Record<string, string>>, emit: Emit): void {
  const give = giver(tags, emit);
  const cpu = words(read("", "cpu.stat"));
  give("container.cpu.time", cpu.get("user_usec"), { mode: "user" }, microseconds);
  give("container.cpu.time", cpu.get("system_usec"), { mode: "system" }, microseconds);
  give("container.cpu.throttled_time", cpu.get("throttled_usec"), {}, microseconds);
  give("container.memory.usage", numberIn(read("", "memory.current")));
  give("container.memory.limit", numberIn(read("", "memory.max")));
  const memory = words(read("", "memory.stat"));
  give("container.memory.cache", memory.get("file"));
  give("container.memory.rss", memory.get("anon"));
  giveActivity(memory, give);
  giveFaults(memory, give);
  give("container.process.count", numberIn(read("", "pids.current")));
  giveBlocks(read("", "io.stat"), give);
}

/** A control group of version 1: each controller has a folder of its own. */
export function readControlGroup1(read: ReadControl, tags: Readonly<Record<string, string>>, emit: Emit): void {
  const give = giver(tags, emit);
  const cpu = words(read("cpuacct", "cpuacct.stat"));
  give("container.cpu.time", cpu.get("user"), { mode: "user" }, 1 / ticks);
  give("container.cpu.time", cpu.get("system"), { mode: "system" }, 1 / ticks);
  give("container.cpu.throttled_time", words(read("cpu", "cpu.stat")).get("throttled_time"), {}, nanoseconds);
  give("container.memory.usage", numberIn(read("memory", "memory.usage_in_bytes")));
  const limit = numberIn(read("memory", "memory.limit_in_bytes"));
  if (limit !== undefined && limit < noLimit) give("container.memory.limit", limit);
  const memory = words(read("memory", "memory.stat"));
  give("container.memory.cache", memory.get("total_cache"));
  give("container.memory.rss", memory.get("total_rss"));
  giveActivity(memory, give);
  giveFaults(memory, give);
  give("container.process.count", numberIn(read("pids", "pids.current")));
  for (const [counter, file] of [
    ["container.disk.io", "io_service_bytes"],
    ["container.disk.operations", "io_serviced"],
  ] as const) {
    const lines = (read("blkio", `blkio.throttle.${file}_recursive`) ?? read("blkio", `blkio.throttle.${file}`) ?? "")
      .split("\n")
      .map((line) => line.split(" "));
    for (const direction of ["Read", "Write"]) {
      const rows = lines.filter(([, op]) => op === direction);
      if (rows.length > 0)
        give(
          counter,
          rows.reduce((sum, row) => sum + Number(row[2]), 0),
          { direction: direction.toLowerCase() },
        );
    }
  }
}

type Give = (
  counter: string,
  value: number | undefined,
  more?: Readonly<Record<string, string>>,
  factor?: number,
) => void;

function giver(tags: Readonly<Record<string, string>>, emit: Emit): Give {
  return (counter, value, more = {}, factor = 1) => {
    if (value !== undefined && Number.isFinite(value)) emit(counter, { ...tags, ...more }, value * factor);
  };
}

function numberIn(text: string | undefined): number | undefined {
  return text === undefined || !/^\d+\s*$/.test(text) ? undefined : Number(text); // "max" is no limit
}

function giveActivity(memory: ReadonlyMap<string, number>, give: Give): void {
  for (const state of ["active", "inactive"]) {
    const [anon, file] = [memory.get(`${state}_anon`), memory.get(`${state}_file`)];
    if (anon !== undefined && file !== undefined) give("container.memory.activity", anon + file, { state });
  }
}

function giveFaults(memory: ReadonlyMap<string, number>, give: Give): void {
  const [all, major] = [memory.get("pgfault"), memory.get("pgmajfault")];
  if (all === undefined || major === undefined) return;
  give("container.paging.faults", major, { type: "major" });
  give("container.paging.faults", all - major, { type: "minor" });
}

/** io.stat: a line a device, `8:0 rbytes=… wbytes=… rios=… wios=…`; a group that has used no disk has an empty file. */
function giveBlocks(text: string | undefined, give: Give): void {
  if (text === undefined || text.trim() === "") return;
  const sum = (name: string) =>
    [...text.matchAll(new RegExp(`\\b${name}=(\\d+)`, "g"))].reduce((total, [, value]) => total + Number(value), 0);
  give("container.disk.io", sum("rbytes"), { direction: "read" });
  give("container.disk.io", sum("wbytes"), { direction: "write" });
  give("container.disk.operations", sum("rios"), { direction: "read" });
  give("container.disk.operations", sum("wios"), { direction: "write" });
}
