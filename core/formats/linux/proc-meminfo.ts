import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/** Fields of /proc/meminfo that are one counter each. */
const single: readonly (readonly [field: string, counter: string, tags: Record<string, string>])[] = [
  ["MemTotal", "system.memory.limit", {}],
  ["MemAvailable", "system.memory.linux.available", {}],
  ["SReclaimable", "system.memory.linux.slab.usage", { state: "reclaimable" }],
  ["SUnreclaim", "system.memory.linux.slab.usage", { state: "unreclaimable" }],
  ["Active", "system.memory.linux.activity", { state: "active" }],
  ["Inactive", "system.memory.linux.activity", { state: "inactive" }],
  ["Shmem", "system.memory.linux.shared", {}],
  ["Mapped", "system.memory.linux.mapped", {}],
  ["Dirty", "system.memory.linux.dirty", {}],
  ["Writeback", "system.memory.linux.writeback", {}],
  ["Committed_AS", "system.memory.linux.committed", {}],
];

/**
 * /proc/meminfo, whose "kB" are 1024 bytes (proc(5)). The states of `system.memory.usage` add up to MemTotal:
 * cached is Cached + SReclaimable, used is the rest, MemTotal − MemFree − Buffers − cached.
 */
export function readProcMeminfo(text: string, emit: Emit): void {
  const bytes = new Map<string, number>();
  eachLine(text, ([name, amount]) => {
    const kib = numberIn(amount);
    if (!Number.isNaN(kib)) bytes.set((name as string).replace(/:$/, ""), kib * 1024);
  });
  for (const [field, counter, tags] of single) {
    const value = bytes.get(field);
    if (value !== undefined) emit(counter, tags, value);
  }
  const total = bytes.get("MemTotal");
  const free = bytes.get("MemFree");
  const buffers = bytes.get("Buffers");
  const files = bytes.get("Cached");
  if (total !== undefined && free !== undefined && buffers !== undefined && files !== undefined) {
    const cached = files + (bytes.get("SReclaimable") ?? 0);
    emit("system.memory.usage", { state: "used" }, total - free - buffers - cached);
    emit("system.memory.usage", { state: "cached" }, cached);
    emit("system.memory.usage", { state: "buffers" }, buffers);
    emit("system.memory.usage", { state: "free" }, free);
  }
  const swapTotal = bytes.get("SwapTotal");
  const swapFree = bytes.get("SwapFree");
  if (swapTotal !== undefined && swapFree !== undefined && swapTotal > 0) {
    emit("system.paging.usage", { state: "used" }, swapTotal - swapFree);
    emit("system.paging.usage", { state: "free" }, swapFree);
  }
}
