import type { Emit } from "../../counters/counter.ts";

export interface ProcessStat {
  readonly pid: number;
  readonly name: string;
  /** One letter, proc(5): R running, S sleeping, D waiting for a disk, Z ended, ... */
  readonly state: string;
  readonly userTicks: number;
  readonly systemTicks: number;
  /** Clock ticks after the machine's start; with the pid it tells a process from a later one of the same number. */
  readonly startTicks: number;
  readonly residentPages: number;
}

/**
 * /proc/PID/stat (proc(5)); undefined where the text is not one. The name stands in brackets and may hold spaces and
 * brackets
 * itself, so fields are counted from the last closing bracket.
 */
export function parseProcessStat(text: string): ProcessStat | undefined {
  const open = text.indexOf("(");
  const close = text.lastIndexOf(")");
  if (open < 1 || close < open) return undefined;
  const fields = text
    .slice(close + 2)
    .trim()
    .split(" ");
  if (fields.length < 22) return undefined;
  const field = (number: number) => Number(fields[number - 3]); // numbered as in proc(5); the first after the name is 3
  const stat = {
    pid: Number(text.slice(0, open)),
    name: text.slice(open + 1, close),
    state: fields[0] as string,
    userTicks: field(14),
    systemTicks: field(15),
    startTicks: field(22),
    residentPages: field(24),
  };
  return Number.isNaN(stat.pid + stat.userTicks + stat.systemTicks + stat.startTicks + stat.residentPages)
    ? undefined
    : stat;
}

/** Bytes of a page of memory, from /proc/self/smaps (proc(5)): 4 KiB on most processors, 16 or 64 KiB on some. */
export function pageBytesOf(smaps: string | undefined): number {
  const kibibytes = Number(/^KernelPageSize:\s+(\d+) kB$/m.exec(smaps ?? "")?.[1]);
  return kibibytes > 0 ? kibibytes * 1024 : 4096;
}

/**
 * Emits the `most` processes that used most processor time since `before` and the `most` with most resident memory.
 * A process must have been seen before to be ranked by processor. Kernel threads (no resident memory) are ranked by
 * processor only.
 */
export function emitTopProcesses(
  now: readonly ProcessStat[],
  before: ReadonlyMap<string, number>,
  emit: Emit,
  { most = 8, ticksPerSecond = 100, pageBytes = 4096 } = {},
): void {
  const tagsOf = (one: ProcessStat) => ({ process: one.name, pid: String(one.pid) });
  const used = (one: ProcessStat) => ticksOf(one) - (before.get(processKey(one)) ?? Number.POSITIVE_INFINITY);
  const byProcessor = now
    .filter((one) => used(one) > 0)
    .sort((a, b) => used(b) - used(a) || a.pid - b.pid)
    .slice(0, most);
  for (const one of byProcessor) {
    emit("process.cpu.time", { ...tagsOf(one), mode: "user" }, one.userTicks / ticksPerSecond);
    emit("process.cpu.time", { ...tagsOf(one), mode: "system" }, one.systemTicks / ticksPerSecond);
  }
  const byMemory = now
    .filter((one) => one.residentPages > 0)
    .sort((a, b) => b.residentPages - a.residentPages || a.pid - b.pid)
    .slice(0, most);
  for (const one of byMemory) emit("process.memory.usage", tagsOf(one), one.residentPages * pageBytes);
}

export function processKey(one: ProcessStat): string {
  return `${one.pid}:${one.startTicks}`;
}

export function ticksOf(one: ProcessStat): number {
  return one.userTicks + one.systemTicks;
}
