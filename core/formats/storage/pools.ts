import type { Emit } from "../../counters/counter.ts";
import { emitTroubles } from "./troubles.ts";

/**
 * `zpool list -H -p -o name,size,allocated,free,health,fragmentation`: columns between tabs, sizes in bytes; and `zpool
 * status -p`, where it was said. A pool is unwell that is
 * not ONLINE, whose devices have had errors since they were cleared, or that holds data that cannot be read
 * (zpool-list(8), zpool-status(8), zpoolconcepts(7)): it stays ONLINE
 * while its copies mend what a failing drive gives.
 */
export function readZpools(list: string, status: string | undefined, emit: Emit): void {
  const told = status === undefined ? new Map<string, PoolStatus>() : poolStatuses(status);
  for (const line of list.split("\n")) {
    const [pool, size, allocated, free, health, fragmentation] = line.split("\t");
    if (!pool || health === undefined) continue;
    if (/^\d+$/.test(size ?? "")) {
      emit("storage.pool.limit", { pool }, Number(size));
      emit("storage.pool.usage", { pool, state: "used" }, Number(allocated));
      emit("storage.pool.usage", { pool, state: "free" }, Number(free));
    }
    const word = health.trim();
    const { devices, hasLostData } = told.get(pool) ?? { devices: [], hasLostData: false };
    for (const { device, type, count } of devices) emit("storage.device.errors", { pool, device, type }, count);
    emitTroubles(
      "storage.pool",
      { pool },
      {
        degraded: word === "DEGRADED",
        "not available": word !== "ONLINE" && word !== "DEGRADED",
        "device errors": devices.some(({ count }) => count > 0),
        "lost data": hasLostData,
      },
      emit,
    );
    if (/^\d+%?$/.test(fragmentation?.trim() ?? ""))
      emit("storage.pool.fragmentation", { pool }, Number.parseInt(fragmentation as string, 10) / 100);
  }
}

interface PoolStatus {
  readonly devices: readonly { readonly device: string; readonly type: string; readonly count: number }[];
  readonly hasLostData: boolean;
}

/** What stands together in a pool, and is no device itself (zpoolconcepts(7), "Virtual Devices"). */
const groups = /^(mirror|raidz[123]?|draid\S*|spare|replacing|indirect)-\d+$|^(logs|cache|spares|special|dedup)$/;

function poolStatuses(text: string): Map<string, PoolStatus> {
  const found = new Map<string, PoolStatus>();
  let pool = "";
  let devices: { device: string; type: string; count: number }[] = [];
  for (const line of text.split("\n")) {
    const name = /^ *pool: (\S+)/.exec(line)?.[1];
    if (name !== undefined) {
      pool = name;
      devices = [];
      continue;
    }
    const errors = /^ *errors: (\S.*)$/.exec(line)?.[1];
    if (errors !== undefined && pool !== "")
      found.set(pool, { devices, hasLostData: !errors.startsWith("No known data errors") });
    const row = /^\s+(\S+)\s+[A-Z]+\s+(\d+)\s+(\d+)\s+(\d+)(?:\s|$)/.exec(line);
    if (!row || row[1] === pool || groups.test(row[1] as string)) continue;
    for (const [i, type] of ["read", "write", "checksum"].entries())
      devices.push({ device: row[1] as string, type, count: Number(row[i + 2]) });
  }
  return found;
}

/**
 * `zfs list -H -p -t filesystem,volume -o name,used,available`: bytes between tabs. The part before the first / is the
 * pool.
 */
export function readZfsList(text: string, emit: Emit): void {
  for (const line of text.split("\n")) {
    const [dataset, used] = line.split("\t");
    if (!dataset || !/^\d+$/.test(used ?? "")) continue;
    emit("storage.dataset.usage", { pool: dataset.split("/")[0] as string, dataset }, Number(used));
  }
}
