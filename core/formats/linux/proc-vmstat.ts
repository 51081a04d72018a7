import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/**
 * /proc/vmstat: paging and faults. `pgfault` counts minor and major together, `pgpgin` and `pgpgout` are KiB (kernel,
 * mm/vmstat.c).
 */
export function readProcVmstat(text: string, emit: Emit): void {
  const found = new Map<string, number>();
  eachLine(text, ([name, value]) => found.set(name as string, numberIn(value)));
  const give = (field: string, counter: string, tags: Record<string, string>, factor = 1) => {
    const value = found.get(field);
    if (value !== undefined && !Number.isNaN(value)) emit(counter, tags, value * factor);
  };
  give("pswpin", "system.paging.operations", { direction: "in" });
  give("pswpout", "system.paging.operations", { direction: "out" });
  give("pgpgin", "system.paging.io", { direction: "in" }, 1024);
  give("pgpgout", "system.paging.io", { direction: "out" }, 1024);
  const all = found.get("pgfault");
  const major = found.get("pgmajfault");
  if (all !== undefined && major !== undefined) {
    emit("system.paging.faults", { type: "major" }, major);
    emit("system.paging.faults", { type: "minor" }, all - major);
  }
}
