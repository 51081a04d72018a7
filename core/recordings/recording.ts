import type { Sentence } from "../reading/document.ts";
import type { RunSchedule } from "./schedule.ts";

/** The sentences of a recording: a list, or by names of their own as a reading has them. */
export type RecordingSentences = readonly Sentence[] | Readonly<Record<string, Sentence>>;

/**
 * What is recorded, how often and when. A run of it ends at the first of its bounds that is reached; one without any
 * runs until somebody ends it, for `longestRunSeconds` at most.
 */
export interface RecordingDocument {
  readonly name: string;
  /** From 1 s to 1 h. */
  readonly everySeconds: number;
  readonly sentences: RecordingSentences;
  readonly forSeconds?: number;
  /** A run ends when so many samples were taken. */
  readonly mostSamples?: number;
  /** A run ends when its samples take so much of the disk. */
  readonly mostBytes?: number;
  /** Runs are removed so many days after their end; without it they are kept until somebody removes them. */
  readonly keepDays?: number;
  readonly schedule?: RunSchedule;
}

export const leastEverySeconds = 1;
export const mostEverySeconds = 3600;
/** No run is longer: one that was forgotten ends. */
export const longestRunSeconds = 31 * 86_400;
export const mostSentences = 100;

/** Who had a run begin. */
export type RunOrigin = "person" | "script" | "schedule" | "file";

/** Why a run has ended. */
export const endings = {
  length: "its length was reached",
  schedule: "its time of the schedule was over",
  samples: "its number of samples was reached",
  bytes: "its share of the disk was reached",
  "disk nearly full": "the disk was nearly full",
  "by hand": "somebody ended it",
  removed: "its recording was removed",
  file: "it came from a file",
} as const;
export type EndedBecause = keyof typeof endings;

/** A stretch of a run, half-open, ms. A run has several where the clock was set in it. */
export interface RunPart {
  readonly fromMs: number;
  readonly toMs: number;
}

/** Sentences by their names: those of a list are called a, b, … z, aa. */
export function namedSentences(sentences: RecordingSentences): Readonly<Record<string, Sentence>> {
  if (!Array.isArray(sentences)) return sentences as Readonly<Record<string, Sentence>>;
  return Object.fromEntries((sentences as readonly Sentence[]).map((sentence, i) => [nameAt(i), sentence]));
}

const nameAt = (i: number): string =>
  (i < 26 ? "" : nameAt(Math.floor(i / 26) - 1)) + String.fromCharCode(97 + (i % 26));
