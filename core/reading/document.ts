import type { Tags } from "../counters/counter.ts";

/** How a sentence reads its counter: totals default to rate, levels to value. */
export type As = "rate" | "increase" | "value";
/** What is kept of the samples within a step. */
export type OfEvery = "mean" | "min" | "max" | "sum" | "last" | "first" | "count" | "p50" | "p90" | "p95" | "p99" | "deviation";
/** How series that share a line become one. */
export type Combine = "sum" | "mean" | "min" | "max" | "p95" | "count";
export type Lines = "each" | "together" | { readonly per: readonly string[] };

/** One condition on a tag; `like` takes `*` for any run of characters. */
export interface Condition {
  readonly tag: string;
  readonly is?: readonly string[];
  readonly not?: readonly string[];
  readonly like?: string;
}

export interface Sentence {
  readonly counter: string;
  readonly where?: readonly Condition[];
  readonly as?: As;
  readonly of_every?: OfEvery;
  readonly lines?: Lines;
  readonly combine?: Combine;
  readonly keep?: { readonly highest?: number; readonly lowest?: number; readonly by?: "max" | "mean" | "last" };
  /** A span such as `7d`, `12h`, `30m`, `45s`: read that much earlier, shown at the window's times. */
  readonly earlier?: string;
}

/** The document behind a sentence: what is drawn, checked by a rule or exported. Times are half-open `[from, to)`. */
export interface ReadingDocument {
  readonly window: { readonly from: number; readonly to: number };
  /** Seconds, or "auto": the finest round step that gives at most `points` values. */
  readonly step?: "auto" | number;
  readonly points?: number;
  /** Asks for the least and the most within each step beside the means, where every line is one series: what a coarse step would hide. */
  readonly extremes?: boolean;
  readonly sentences: Readonly<Record<string, Sentence>>;
  /** A span: every line is answered a second time as it was that much earlier, at the window's times, marked by `earlier`. */
  readonly beside?: string;
  /** Arithmetic between the sentences' names; without it every sentence's own lines are answered. */
  readonly figure?: string;
  /** The unit of the figure's result, UCUM. */
  readonly unit?: string;
}

export interface Line {
  /** The sentence's name, or "figure". */
  readonly of: string;
  readonly tags: Tags;
  readonly unit: string;
  /** Of a document's `beside`: how much earlier than shown these values are. */
  readonly earlier?: string;
  /** One a step; null where nothing is known. */
  readonly values: readonly (number | null)[];
  /** Least and most within each step, where they were asked for and the line is one series. */
  readonly lows?: readonly (number | null)[];
  readonly highs?: readonly (number | null)[];
  readonly last: number | null;
  readonly min: number | null;
  readonly mean: number | null;
  readonly max: number | null;
}

export interface ReadingAnswer {
  readonly from: number;
  readonly stepMs: number;
  readonly count: number;
  readonly tier: "raw" | "5m" | "1h";
  readonly lines: readonly Line[];
  /** What the reader should know, in sentences. */
  readonly notes: readonly string[];
}
