import type { CounterKind, Falls, Tags } from "../../counters/counter.ts";
import type { Column } from "../../series/batch.ts";

/** What a file says of a series. */
export interface FileSeries {
  readonly counter: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, where its format says more than that it restarts. */
  readonly falls?: Falls;
}

/** Writes samples as text, a series after the other; the series of a counter follow one another. */
export interface SampleWriter {
  head(): string;
  /** A piece of a series, ascending in time and after what was written of it before. */
  series(series: FileSeries, column: Column): string;
  end(): string;
}

/** Takes one sample that was read. */
export type TakeSample = (series: FileSeries, timeMs: number, value: number) => void;

/** Reads text line by line. */
export interface SampleReader {
  /** Throws TextError with the line, and the column where it is known. */
  line(text: string): void;
  /** Throws TextError where the text ended too early. */
  end(): void;
}

export const sampleFormats = ["openmetrics", "csv", "jsonl"] as const;
export type SampleFormat = (typeof sampleFormats)[number];

/** Text that cannot be read; `line` counts from 1, `column` too. */
export class TextError extends Error {
  readonly line: number;
  readonly column: number | undefined;
  /** The words without their place. */
  readonly plain: string;
  constructor(message: string, line: number, column?: number) {
    super(`line ${line}${column === undefined ? "" : `, column ${column}`}: ${message}`);
    this.name = "TextError";
    this.plain = message;
    this.line = line;
    this.column = column;
  }
}

/** A number as text that gives the same number back: shortest decimal digits (ECMAScript Number::toString), −0 with its sign. */
export function numberText(v: number, infinity = "Infinity"): string {
  if (Number.isNaN(v)) return "NaN";
  if (!Number.isFinite(v)) return v > 0 ? `+${infinity}` : `-${infinity}`;
  return Object.is(v, -0) ? "-0" : String(v);
}

/** The number that `numberText` or a common writer of numbers wrote; undefined for text that is none. */
export function parseNumber(text: string): number | undefined {
  // Each digit can be matched in one way only: what follows many of them is found wrong in linear time.
  if (/^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i.test(text)) return Number(text);
  if (/^nan$/i.test(text)) return Number.NaN;
  const infinity = /^([+-]?)inf(inity)?$/i.exec(text);
  return infinity ? (infinity[1] === "-" ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY) : undefined;
}

export const counterKinds: readonly CounterKind[] = ["total", "level", "state", "distribution"];
