import { route } from "./route.ts";
import type { Nothing } from "./route.ts";

/** What one tier of the store takes. */
export interface TierCosts {
  readonly tier: "raw" | "5m" | "1h";
  readonly keptDays: number;
  readonly sizeBytes: number;
  /** Start of the oldest that is there, ms; null while there is nothing. */
  readonly fromMs: number | null;
  /** What a day takes at the present rate; null while that is not known. */
  readonly bytesPerDay: number | null;
}

/** What gathering and keeping costs. */
export interface CostsView {
  readonly samplesPerSecond: number;
  readonly series: number;
  /** On disk, indexes included. */
  readonly bytesPerSample: number;
  /** Nothing is stored yet in its final form, for the first two hours: what a sample and a day take is estimated. */
  readonly isEstimated: boolean;
  readonly tiers: readonly TierCosts[];
  readonly journalBytes: number;
  readonly databaseBytes: number;
  /** Free on the database's disk; null where that is another machine's. */
  readonly diskFreeBytes: number | null;
  readonly memoryBytes: number;
  readonly headBytes: number;
  readonly headSamples: number;
  /** Of one processor, over the last minute. */
  readonly processorShare: number;
  readonly refused: Readonly<Record<string, number>>;
}

/** For how many days each tier is kept. */
export interface Retention {
  readonly rawDays: number;
  readonly fiveMinuteDays: number;
  readonly hourDays: number;
}

export const getCosts = route("GET", "/costs")<Nothing, CostsView>();
export const getRetention = route("GET", "/retention")<Nothing, Retention>();
/** Takes effect with the next clean-up, within ten minutes. */
export const putRetention = route("PUT", "/retention")<Retention, Retention>();
