import type { Emit } from "../../counters/counter.ts";
import { numberIn } from "./lines.ts";

/** A zone of the kernel's power capping, as its folder below /sys/class/powercap tells. */
export interface PowercapZone {
  /** "package-0", "dram", "psys"; those below a package have its name before theirs. */
  readonly name: string;
  /** Where the counter wraps, J. */
  readonly wrapsAt: number;
}

/**
 * The energy that a zone has counted, of its `energy_uj`: microjoules from 0 to `max_energy_range_uj`, then again from 0
 * (kernel, Documentation/power/powercap/powercap.rst). That it wraps and where goes with each reading.
 */
export function readPowercap({ name, wrapsAt }: PowercapZone, text: string, emit: Emit): void {
  const value = numberIn(text.trim());
  if (!Number.isNaN(value)) emit("hw.energy", { zone: name }, value / 1e6, wrapsAt);
}

/** What a zone is, of its own files; undefined where it has no counter or does not say where it wraps. */
export function powercapZone(
  name: string | undefined,
  range: string | undefined,
  parent?: string,
): PowercapZone | undefined {
  const wrapsAt = numberIn(range?.trim()) / 1e6;
  const own = name?.trim();
  if (!own || !(wrapsAt > 0)) return undefined;
  return { name: parent && !own.startsWith(parent) ? `${parent} ${own}` : own, wrapsAt };
}
