import type { Emit } from "../../counters/counter.ts";
import { jsonOf, listIn } from "./json-report.ts";

/** `zpool list -H -p -o name,size,allocated,free,health,fragmentation`: columns between tabs, sizes in bytes. */
export function readZpoolList(text: string, emit: Emit): void {
  for (const line of text.split("\n")) {
    const [pool, size, allocated, free, health, fragmentation] = line.split("\t");
    if (!pool || health === undefined) continue;
    if (/^\d+$/.test(size ?? "")) {
      emit("storage.pool.limit", { pool }, Number(size));
      emit("storage.pool.usage", { pool, state: "used" }, Number(allocated));
      emit("storage.pool.usage", { pool, state: "free" }, Number(free));
    }
    emit("storage.pool.healthy", { pool }, health.trim() === "ONLINE" ? 1 : 0);
    if (/^\d+%?$/.test(fragmentation?.trim() ?? "")) emit("storage.pool.fragmentation", { pool }, Number.parseInt(fragmentation as string, 10) / 100);
  }
}

/** `zfs list -H -p -t filesystem,volume -o name,used,available`: bytes between tabs. The part before the first / is the pool. */
export function readZfsList(text: string, emit: Emit): void {
  for (const line of text.split("\n")) {
    const [dataset, used] = line.split("\t");
    if (!dataset || !/^\d+$/.test(used ?? "")) continue;
    emit("storage.dataset.usage", { pool: dataset.split("/")[0] as string, dataset }, Number(used));
  }
}

/** `btrfs --format json device stats MOUNT`: errors of each device since they were reset. What is no such report gives nothing. */
export function readBtrfsDeviceStats(text: string, pool: string, emit: Emit): void {
  const rows = listIn(jsonOf(text), "device-stats");
  let errors = 0;
  for (const row of rows) {
    const device = typeof row["device"] === "string" ? row["device"].replace("/dev/", "") : "";
    for (const [name, value] of Object.entries(row)) {
      const type = /^(\w+)_errs$/.exec(name)?.[1];
      if (type === undefined || (typeof value !== "string" && typeof value !== "number") || !Number.isFinite(Number(value))) continue;
      errors += Number(value);
      emit("storage.device.errors", { pool, device, type: type.replace("_io", "") }, Number(value));
    }
  }
  if (rows.length > 0) emit("storage.pool.healthy", { pool }, errors === 0 ? 1 : 0);
}

/** `btrfs filesystem usage -b MOUNT`: bytes. "Free (estimated)" is what can still be written with the present copies. */
export function readBtrfsUsage(text: string, pool: string, emit: Emit): void {
  const told = new Map<string, number>();
  for (const line of text.split("\n")) {
    const at = line.indexOf(":");
    const words = line.slice(0, Math.max(0, at)).trim();
    const digits = /^\s*(\d+)/.exec(line.slice(at + 1))?.[1];
    if (words !== "" && digits !== undefined && !told.has(words)) told.set(words, Number(digits));
  }
  const bytes = (words: string) => told.get(words) ?? Number.NaN;
  const [size, used, free] = [bytes("Device size"), bytes("Used"), bytes("Free (estimated)")];
  if (!(size > 0)) return;
  emit("storage.pool.limit", { pool }, size);
  emit("storage.pool.usage", { pool, state: "used" }, used);
  if (Number.isFinite(free)) emit("storage.pool.usage", { pool, state: "free" }, free);
}
