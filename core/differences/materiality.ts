import { catalogue } from "../counters/catalogue.ts";

/** The amount below which a change of a counter matters to nobody, and what a lot of it is; in the unit of its lines. */
interface Scale {
  readonly least: number;
  /** What is as much as there can be, or as is often had; a share of it says how much a change matters. */
  readonly full: number;
}

/**
 * By the unit of a line: shares of time and of space as numbers and in percent, bytes, bits and operations a second,
 * degrees, watts, seconds. Common practice, no source.
 */
const scales: Readonly<Record<string, Scale>> = {
  "1": { least: 0.05, full: 1 },
  "%": { least: 5, full: 100 },
  "By/s": { least: 200_000, full: 1e8 },
  "bit/s": { least: 2e6, full: 1e9 },
  By: { least: 5e7, full: 1e10 },
  "{operation}/s": { least: 10, full: 1000 },
  "{packet}/s": { least: 200, full: 100_000 },
  Cel: { least: 4, full: 40 },
  W: { least: 10, full: 200 },
  s: { least: 0.005, full: 1 },
  V: { least: 5, full: 50 },
  Hz: { least: 1, full: 10 },
};
const otherwise: Scale = { least: 2, full: 100 };

/** Whether anybody would care for such a change. */
export function matters(unit: string, value: number, usual: number): boolean {
  return Math.abs(value - usual) >= (scales[unit] ?? otherwise).least;
}

/**
 * How much a change matters, from a half to 2: by its share of what there can be, and fully where the value is past the
 * common limit of its counter.
 */
export function weightOf(counter: string, unit: string, value: number, usual: number): number {
  const { full } = scales[unit] ?? otherwise;
  const share = Math.min(1, Math.abs(value - usual) / full);
  const limit = catalogue.get(counter)?.limit;
  const isPast = limit && (limit.compare === "above" ? value > limit.value : value < limit.value);
  return isPast ? 2 : 0.5 + 1.2 * Math.sqrt(share);
}

/** Counters that tell how long something has been, and so are never as they were. */
const clocks = new Set(["system.uptime", "drive.power_on_time"]);

/** Whether a counter has a usual at all. */
export const hasUsual = (counter: string): boolean => !clocks.has(counter) && !counter.startsWith("nubrel.");
