import type { FileSeries } from "../../pages/file-series.ts";
import type { Column } from "../../series/batch.ts";

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
