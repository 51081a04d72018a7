import type { Emit } from "../../counters/counter.ts";
import { jsonOf, listIn } from "./json-report.ts";
import { emitTroubles } from "./troubles.ts";

/**
 * What is known of a btrfs filesystem: what its tools said, where they said something, and the options that it is
 * mounted with.
 */
export interface BtrfsTexts {
  /** `btrfs filesystem usage -b MOUNT` */
  readonly usage?: string;
  /** `btrfs --format json device stats MOUNT` */
  readonly stats?: string;
  readonly options: readonly string[];
}

/**
 * A btrfs filesystem in usable bytes, the errors of its devices, and what makes it unwell (btrfs-filesystem(8),
 * btrfs-device(8), btrfs(5)): a device is missing, it was mounted
 * without one (`degraded`), the kernel writes to it no more (`ro`), a device has had errors since they were reset.
 * Texts that are no such reports give nothing.
 */
export function readBtrfs({ usage, stats, options }: BtrfsTexts, pool: string, emit: Emit): void {
  const space = usage === undefined ? undefined : spaceOf(usage);
  const devices = stats === undefined ? [] : listIn(jsonOf(stats), "device-stats");
  if (!space && devices.length === 0) return;
  if (space) {
    emit("storage.pool.limit", { pool }, space.used + space.free);
    emit("storage.pool.usage", { pool, state: "used" }, space.used);
    emit("storage.pool.usage", { pool, state: "free" }, space.free);
  }
  let errors = 0;
  for (const row of devices) {
    const device = typeof row["device"] === "string" ? row["device"].replace("/dev/", "") : "";
    for (const [name, value] of Object.entries(row)) {
      const type = /^(\w+)_errs$/.exec(name)?.[1];
      if (
        type === undefined ||
        (typeof value !== "string" && typeof value !== "number") ||
        !Number.isFinite(Number(value))
      )
        continue;
      errors += Number(value);
      emit("storage.device.errors", { pool, device, type: type.replace("_io", "") }, Number(value));
    }
  }
  emitTroubles(
    "storage.pool",
    { pool },
    {
      "missing device": space?.isMissing ?? false,
      degraded: options.includes("degraded"),
      "read-only": options.includes("ro"),
      "device errors": errors > 0,
    },
    emit,
  );
}

/**
 * Space as a person sees it. "Used" counts every copy; "Free (estimated)" is what can be written with the present
 * copies on all devices, "Free (statfs, df)" on those that are
 * there, so the lesser counts.
 */
function spaceOf(
  text: string,
): { readonly used: number; readonly free: number; readonly isMissing: boolean } | undefined {
  const told = new Map<string, number>();
  for (const line of text.split("\n")) {
    const at = line.indexOf(":");
    const words = line.slice(0, Math.max(0, at)).trim();
    const digits = /^\s*(\d+(?:\.\d+)?)/.exec(line.slice(at + 1))?.[1];
    if (words !== "" && digits !== undefined && !told.has(words)) told.set(words, Number(digits));
  }
  const used = (told.get("Used") ?? Number.NaN) / Math.max(1, told.get("Data ratio") ?? 1);
  const free = Math.min(
    told.get("Free (estimated)") ?? Number.POSITIVE_INFINITY,
    told.get("Free (statfs, df)") ?? Number.POSITIVE_INFINITY,
  );
  return Number.isFinite(used) && Number.isFinite(free)
    ? { used: Math.round(used), free, isMissing: (told.get("Device missing") ?? 0) > 0 }
    : undefined;
}
