import type { UsualBand } from "../baseline/usual-band.ts";
import type { Tags } from "../counters/counter.ts";
import type { OfEvery } from "../series/of-every.ts";
import type { CalendarStep } from "./calendar.ts";

/** How a sentence reads its counter: totals default to rate, levels to value. */
export type As = "rate" | "increase" | "value";
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
  readonly keep?: {
    readonly highest?: number;
    readonly lowest?: number;
    readonly by?: "max" | "mean" | "last";
    /** All others follow as one line, added up. */
    readonly rest?: boolean;
  };
  /** A span such as `7d`, `12h`, `30m`, `45s`: read that much earlier, shown at the window's times. */
  readonly earlier?: string;
}

/** The document behind a sentence: what is drawn, checked by a rule or exported. Times are half-open `[from, to)`. */
export interface ReadingDocument {
  readonly window: { readonly from: number; readonly to: number };
  /**
   * Seconds; or "auto": the finest round step that gives at most `points` values; or days, weeks or months of the
   * zone's calendar. Steps of whole days are the zone's days as well.
   */
  readonly step?: "auto" | number | CalendarStep;
  /**
   * The viewer's zone (IANA), by whose clock days, weeks and months begin and `earlier` counts days; UTC without it.
   */
  readonly zone?: string;
  readonly points?: number;
  /**
   * Asks for the least and the most within each step beside the means, where every line is one series: what a coarse
   * step would hide.
   */
  readonly extremes?: boolean;
  /** Asks for each line's sum over the window: of a total its growth, of a level its integral over time. */
  readonly sums?: boolean;
  readonly sentences: Readonly<Record<string, Sentence>>;
  /** Asks for what is usual of each line at its steps, from up to eight weeks before (core/baseline). */
  readonly usual?: boolean;
  /**
   * A span: every line is answered a second time as it was that much earlier, at the window's times, marked by
   * `earlier`.
   */
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
  /** What is usual at each step, where it was asked for: the median, and one standard deviation to each side. */
  readonly usual?: UsualBand;
  /** Least and most within each step, where they were asked for and the line is one series. */
  readonly lows?: readonly (number | null)[];
  readonly highs?: readonly (number | null)[];
  /**
   * Of a quantile: the steps, ascending, that lie above the highest bound that is counted; that bound stands in their
   * place.
   */
  readonly above?: readonly number[];
  /** How many series each step has, of a line that several share, where that varies. */
  readonly members?: readonly number[];
  /**
   * How many steps, from the first, have been told by every series of the line that still reports; absent where all
   * have. What follows may still change.
   */
  readonly whole?: number;
  /**
   * The value of the newest whole step, if it is one of the window's end: what was silent for longer than its reach has
   * none.
   */
  readonly last: number | null;
  /**
   * Least and most: of the samples (of the stretches between them, for a rate) where the line is one series, or the
   * least or greatest of several; of the steps else.
   */
  readonly min: number | null;
  readonly mean: number | null;
  readonly max: number | null;
  /**
   * Over the whole window, where it was asked for; whatever the steps. Null where nothing is known, and of lines that
   * do not add up: the greatest of several, quantiles.
   */
  readonly sum?: { readonly value: number; readonly unit: string } | null;
}

export interface ReadingAnswer {
  readonly from: number;
  readonly stepMs: number;
  readonly count: number;
  /** The bounds of the steps, `count + 1` of them, where they are not all of one length: days, weeks, months. */
  readonly edges?: readonly number[];
  readonly tier: "raw" | "5m" | "1h";
  readonly lines: readonly Line[];
  /** What the reader should know, in sentences. */
  readonly notes: readonly string[];
}
