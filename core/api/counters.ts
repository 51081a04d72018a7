import type { CounterKind, Falls, Reduction, Tags, CommonLimit } from "../counters/counter.ts";
import type { PageQuery } from "./page-query.ts";
import { type Nothing, route } from "./route.ts";
import type { WindowQuery } from "./window-query.ts";

/** The list of counters tells so many values of a tag at most; the rest is told of one counter alone. */
export const mostListedValues = 30;

export interface CounterView {
  readonly name: string;
  readonly words: string;
  readonly explains: string;
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, of a total; absent where that is a restart. */
  readonly falls?: Falls;
  readonly series: number;
  /** What is shown of it unless asked otherwise. */
  readonly reduction: Reduction;
  readonly limit: CommonLimit | null;
  readonly machines: readonly string[];
  /** Its tags in order of their names, `machine` first, those of machines among them; some of very many values. */
  readonly tags: readonly { readonly tag: string; readonly values: readonly string[] }[];
}

/** Everything about one counter: all values of its tags, and how it stands now. */
export interface CounterDetail extends CounterView {
  readonly samplesPerDay: number;
  /** Its series with their newest value of the last quarter of an hour; of very many the first. */
  readonly newest: readonly {
    readonly id: number;
    readonly tags: Tags;
    readonly atMs: number | null;
    readonly value: number | null;
  }[];
}

/** Samples as they are stored, newest first. */
export interface RawSamples {
  readonly timeMs: readonly number[];
  readonly value: readonly number[];
  /** Whether there are more in the window than these. */
  readonly isCut: boolean;
}

/** Values of tags that occur together among what reports. */
export interface TagsPresent {
  readonly combinations: readonly Tags[];
  /** Of how many counters each of them is. */
  readonly counters: readonly number[];
  /** Whether there are more than these. */
  readonly isCut: boolean;
}

export interface SeriesView {
  readonly id: number;
  readonly tags: Tags;
}

export const listCounters = route("GET", "/counters")<Nothing, readonly CounterView[]>();
export const getCounter = route("GET", "/counters/:name")<Nothing, CounterDetail>();
/** Every series of a counter, the newest first. */
export const listSeries = route("GET", "/counters/:name/series")<Nothing, readonly SeriesView[], PageQuery>();
/** Samples as they are stored, the newest first. */
export const getSamples = route("GET", "/series/:id/samples")<
  Nothing,
  RawSamples,
  WindowQuery & { readonly most?: number }
>();
/** Which series are told as text: of counters and machines whose names are like these (`*` for any run of characters). */
export interface MetricsQuery {
  readonly counter?: readonly string[];
  readonly machine?: string;
}

/** The newest sample of each series, as OpenMetrics text; Nubrel's own counters where none are named. */
export const getMetrics = route("GET", "/metrics")<Nothing, string, MetricsQuery>();
/** Which values of tags occur together among what reports, of all counters or of some. */
export const getTags = route("GET", "/tags")<
  Nothing,
  TagsPresent,
  { readonly tag: readonly string[]; readonly counter?: readonly string[] }
>();
