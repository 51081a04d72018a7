import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/** Columns of a cpu line, proc(5) "/proc/stat". Guest time is part of user and nice there, so it is not given again. */
const modes = ["user", "nice", "system", "idle", "iowait", "interrupt", "softirq", "steal"] as const;

/** /proc/stat: processor time in `ticksPerSecond` (USER_HZ, 100 everywhere), processes started, running and blocked. */
export function readProcStat(text: string, emit: Emit, ticksPerSecond = 100): void {
  let cores = 0;
  eachLine(text, (fields) => {
    const name = fields[0] as string;
    if (name.startsWith("cpu")) {
      const cpu = name.slice(3);
      if (cpu !== "") cores++;
      modes.forEach((mode, i) => {
        const ticks = numberIn(fields[i + 1]);
        if (Number.isNaN(ticks)) return;
        if (cpu === "") emit("system.cpu.time", { mode }, ticks / ticksPerSecond);
        else emit("system.cpu.core.time", { cpu, mode }, ticks / ticksPerSecond);
      });
    } else if (name === "processes") emit("system.process.created", {}, numberIn(fields[1]));
    else if (name === "procs_running") emit("system.process.count", { state: "running" }, numberIn(fields[1]));
    else if (name === "procs_blocked") emit("system.process.count", { state: "blocked" }, numberIn(fields[1]));
  });
  if (cores > 0) emit("system.cpu.logical.count", {}, cores);
}
