import type { Emit } from "../../counters/counter.ts";

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

/** `btrfs --format json device stats MOUNT`: errors of each device since they were reset. */
export function readBtrfsDeviceStats(text: string, pool: string, emit: Emit): void {
  const rows = (JSON.parse(text) as { "device-stats"?: readonly Readonly<Record<string, string>>[] })["device-stats"] ?? [];
  let errors = 0;
  for (const row of rows) {
    for (const [name, value] of Object.entries(row)) {
      const type = /^(\w+)_errs$/.exec(name)?.[1];
      if (type === undefined || !Number.isFinite(Number(value))) continue;
      errors += Number(value);
      emit("storage.device.errors", { pool, device: (row["device"] ?? "").replace("/dev/", ""), type: type.replace("_io", "") }, Number(value));
    }
  }
  if (rows.length > 0) emit("storage.pool.healthy", { pool }, errors === 0 ? 1 : 0);
}

/** `btrfs filesystem usage -b MOUNT`: bytes. "Free (estimated)" is what can still be written with the present copies. */
export function readBtrfsUsage(text: string, pool: string, emit: Emit): void {
  const bytes = (words: string) => Number(new RegExp(`^\\s*${words}:\\s+(\\d+)`, "m").exec(text)?.[1] ?? Number.NaN);
  const [size, used, free] = [bytes("Device size"), bytes("Used"), bytes("Free \\(estimated\\)")];
  if (!(size > 0)) return;
  emit("storage.pool.limit", { pool }, size);
  emit("storage.pool.usage", { pool, state: "used" }, used);
  if (Number.isFinite(free)) emit("storage.pool.usage", { pool, state: "free" }, free);
}
