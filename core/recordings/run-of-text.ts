import { findTableShape, type GivenShape } from "../formats/csv/table-shape.ts";
import { TableReader } from "../formats/csv/table-reader.ts";
import { PageReader } from "../formats/exposition/page-reader.ts";
import { OpenMetricsReader } from "../formats/samples/open-metrics-samples.ts";
import { tableText } from "../formats/csv/table-text.ts";
import { seriesKey } from "../counters/series-key.ts";
import type { FileSeries } from "../pages/file-series.ts";
import type { Page } from "../pages/page.ts";
import { TextError } from "../pages/text-error.ts";
import { medianIntervalMs, meantIntervalMs } from "../series/interval.ts";
import {
  leastEverySeconds,
  mostEverySeconds,
  mostSentences,
  namedSentences,
  type RecordingDocument,
} from "./recording.ts";
import type { RunSeries } from "./run-series.ts";

/** A run that was read from a text of samples. */
export interface TextRun {
  readonly document: RecordingDocument;
  readonly series: readonly RunSeries[];
  readonly startedAtMs: number;
  readonly endedAtMs: number;
}

/** What a table could also be read as: a person says how. */
export class TableDoubts extends Error {
  override name = "TableDoubts";
}

/** A machine that a text does not name is called so. */
const nameless = "file";
const described = /^# HELP \S+ counter \S+, unit \S*, kind \w+$/m;
const ourPage = /^# (TYPE|HELP|UNIT|EOF)\b/m;
const samplePage = /^[a-zA-Z_:][\w:]*(\{.*\})? (NaN|[-+]?Inf\w*|[-+]?[\d.]\S*)( \S+)?$/m;
const looksAt = 65_536;

/**
 * Reads a text of samples as a run called `name`: a counter log of Windows' own tools, a table, or OpenMetrics. Throws
 * TextError with the place, TableDoubts where a table could be read in several ways.
 */
export function runOfText(bytes: Uint8Array, name: string, given: GivenShape = {}): TextRun {
  const { text } = tableText(bytes);
  const head = text.length > looksAt ? text.slice(0, text.lastIndexOf("\n", looksAt) + 1) : text;
  const samples = new TextSamples();
  const shape = ourPage.test(head) ? undefined : findTableShape(head, given);
  if (shape) {
    if (shape.doubts.length > 0) throw new TableDoubts(shape.doubts.join(" "));
    const reader = new TableReader();
    samples.addPage(reader.series, reader.read(text, shape.shape));
  } else if (described.test(head)) {
    const reader = new OpenMetricsReader((series, timeMs, value) => samples.add(series, timeMs, value));
    for (const line of text.replace(/\r?\n$/, "").split(/\r?\n/)) reader.line(line);
    reader.end();
  } else if (ourPage.test(head) || samplePage.test(head)) {
    const reader = new PageReader(/^# EOF$/m.test(text.slice(-200)) ? "openmetrics" : "text");
    samples.addPage(reader.series, reader.read(bytes));
  } else throw new TextError("this is no counter log, no table with a column of times, and no OpenMetrics", 1);
  return samples.run(name);
}

/** Samples of a text by their series. */
class TextSamples {
  readonly #all = new Map<string, { readonly series: FileSeries; readonly rows: [timeMs: number, value: number][] }>();

  addPage(series: readonly FileSeries[], { which, timeMs, value, length }: Page): void {
    for (let i = 0; i < length; i++)
      this.add(series[which[i] as number] as FileSeries, timeMs[i] as number, value[i] as number);
  }

  add(series: FileSeries, timeMs: number, value: number): void {
    if (Number.isNaN(timeMs))
      throw new TextError(`${series.counter} has a sample without a time: a run is known by its times`, 1);
    const key = seriesKey(series.counter, series.tags);
    const known = this.#all.get(key);
    if (known) known.rows.push([timeMs, value]);
    else this.#all.set(key, { series, rows: [[timeMs, value]] });
  }

  /** A sentence a counter, one line each. */
  run(name: string): TextRun {
    const counters = [...new Set([...this.#all.values()].map(({ series }) => series.counter))].sort();
    if (counters.length === 0) throw new TextError("there is no sample in it", 1);
    if (counters.length > mostSentences)
      throw new TextError(`${counters.length} counters; a recording holds ${mostSentences}, so leave some out`, 1);
    const sentences = counters.map((counter) => ({ counter }));
    const names = Object.keys(namedSentences(sentences));
    const series = [...this.#all.values()].map(({ series: { counter, tags, unit, kind, falls }, rows }): RunSeries => {
      rows.sort(([a], [b]) => a - b); // of two at one time the later one in the text stands
      const kept = rows.filter(([timeMs], i) => rows[i + 1]?.[0] !== timeMs);
      return {
        counter,
        unit,
        kind,
        tags: tags["machine"] === undefined ? { ...tags, machine: nameless } : tags,
        ...(falls !== undefined && { falls }),
        of: [names[counters.indexOf(counter)] as string],
        column: {
          timeMs: Float64Array.from(kept, ([timeMs]) => timeMs),
          value: Float64Array.from(kept, ([, value]) => value),
        },
      };
    });
    const startedAtMs = Math.min(...series.map(({ column }) => column.timeMs[0] as number));
    const lastMs = Math.max(...series.map(({ column }) => column.timeMs.at(-1) as number));
    const everySeconds = intervalOf(series);
    const document = { name, everySeconds, sentences };
    return { document, series, startedAtMs, endedAtMs: lastMs + everySeconds * 1000 };
  }
}

/** The interval at which most of its series come, in whole seconds. */
function intervalOf(series: readonly RunSeries[]): number {
  const all = series
    .map(({ column }) => medianIntervalMs(column.timeMs))
    .filter((ms) => ms > 0)
    .sort((a, b) => a - b);
  const seconds = Math.round(meantIntervalMs(all[all.length >> 1] ?? 1000) / 1000);
  return Math.min(mostEverySeconds, Math.max(leastEverySeconds, seconds));
}
