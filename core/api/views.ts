import type { CounterKind, Tags } from "../counters/counter.ts";
import type { LineState, Rule } from "../rules/rule.ts";

/** Answer of GET /api/health. */
export interface Health {
  readonly status: "ok" | "degraded";
  readonly version: string;
  /** "full": it answers, but its disk takes nothing more. */
  readonly database: "ok" | "away" | "full";
  /** Since when it is not "ok", ms. */
  readonly databaseSince: number | null;
  /** ms, null before the first sample. */
  readonly lastSampleAt: number | null;
  readonly samplesPerSecond: number;
  /** Samples that wait for the database in memory, and how many may; they are not acknowledged. */
  readonly waitingSamples: number;
  readonly mostWaiting: number;
  /** Samples that were not taken since the start, by reason. */
  readonly refused: Readonly<Record<string, number>>;
}

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
  /** On disk, indexes included; null before the first two hours are stored. */
  readonly bytesPerSample: number | null;
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

export interface Me {
  readonly name: string;
  readonly role: "owner";
}

export interface MachineView {
  readonly name: string;
  readonly state: "reporting" | "late" | "silent";
  readonly lastSampleAtMs: number | null;
  /** Seconds between gatherings. */
  readonly intervalSeconds: number;
  readonly series: number;
}

export interface MachineDetail extends MachineView {
  /** Names of the counters that report about it. */
  readonly counters: readonly string[];
}

export interface CounterView {
  readonly name: string;
  readonly words: string;
  readonly explains: string;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly series: number;
}

export interface SeriesView {
  readonly id: number;
  readonly tags: Tags;
}

/** A rule with where it stands; `mode` is null while it is off or not yet checked. */
export interface RuleView extends Rule {
  readonly mode: LineState["mode"] | null;
  readonly sinceMs: number | null;
  readonly value: number | null;
  readonly failure: string | null;
}

/** How much was gathered in each of `counts.length` equal parts of a window. */
export interface DensityView {
  readonly from: number;
  readonly stepMs: number;
  readonly counts: readonly number[];
}
