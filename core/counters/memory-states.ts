import type { Emit } from "./counter.ts";

/** Amounts in bytes. */
export interface Memory {
  readonly total: number;
  readonly available: number;
  readonly free: number;
  readonly buffers: number;
  readonly shared: number;
}

/** The states of `system.memory.usage`, which add up to the total. */
export function emitMemory({ total, available, free, buffers, shared }: Memory, emit: Emit): void {
  const used = total - available;
  const kept = Math.min(shared, used);
  const untouched = Math.min(free, available);
  const ofBuffers = Math.min(buffers, available - untouched);
  emit("system.memory.usage", { state: "used" }, used - kept);
  emit("system.memory.usage", { state: "shared" }, kept);
  emit("system.memory.usage", { state: "buffers" }, ofBuffers);
  emit("system.memory.usage", { state: "cached" }, available - untouched - ofBuffers);
  emit("system.memory.usage", { state: "free" }, untouched);
}
