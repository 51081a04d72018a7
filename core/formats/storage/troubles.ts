import type { Emit } from "../../counters/counter.ts";

/**
 * What makes something unwell, one series a reason, 1 while it is so: `storage.pool.trouble`, `storage.array.trouble`,
 * `drive.trouble` with the tag `why`. It is healthy while
 * none is.
 */
export function emitTroubles(
  what: "storage.pool" | "storage.array" | "drive",
  tags: Readonly<Record<string, string>>,
  troubles: Readonly<Record<string, boolean>>,
  emit: Emit,
): void {
  for (const [why, is] of Object.entries(troubles)) emit(`${what}.trouble`, { ...tags, why }, is ? 1 : 0);
  emit(`${what}.healthy`, tags, Object.values(troubles).includes(true) ? 0 : 1);
}
