import { CsvWriter } from "../../core/formats/samples/csv-samples.ts";
import { JsonLinesWriter } from "../../core/formats/samples/json-lines-samples.ts";
import { OpenMetricsWriter } from "../../core/formats/samples/open-metrics-samples.ts";
import type { SampleFormat, SampleWriter } from "../../core/formats/samples/sample-format.ts";
import { isLike } from "../../core/reading/where.ts";
import type { Store } from "../store/store.ts";

/** A series is read in pieces of so long: bounds the memory. */
const pieceMs = 5 * 86_400_000;

/**
 * What is exported: samples in `[fromMs, toMs)` of counters and machines whose names are like the patterns (`*` for any
 * run of characters).
 */
export interface ExportWish {
  readonly format: SampleFormat;
  readonly fromMs: number;
  readonly toMs: number;
  readonly counter: string;
  readonly machine: string;
}

export interface Exported {
  readonly series: number;
  readonly samples: number;
}

/** Writes samples as text, piece by piece; `write` resolves when more may come. */
export async function exportSamples(
  store: Store,
  wish: ExportWish,
  write: (text: string) => Promise<void>,
): Promise<Exported> {
  const writer = writerOf(wish.format);
  let samples = 0;
  const wanted = store.series
    .all()
    .filter(({ counter, tags }) => isLike(counter, wish.counter) && isLike(tags["machine"] ?? "", wish.machine))
    .sort((a, b) => (a.counter < b.counter ? -1 : a.counter > b.counter ? 1 : a.id - b.id));
  await write(writer.head());
  // Nothing is stored before or after.
  const fromMs = Math.max(wish.fromMs, store.reach().rawFromMs - pieceMs);
  const toMs = Math.min(wish.toMs, store.reach().takenUntilMs);
  let series = 0;
  for (const one of wanted) {
    let found = 0;
    for (let from = fromMs; from < toMs; from += pieceMs) {
      const [column] = await store.read([one.id], from, Math.min(toMs, from + pieceMs));
      if (!column || column.timeMs.length === 0) continue;
      found += column.timeMs.length;
      await write(writer.series(one, column));
    }
    samples += found;
    if (found > 0) series++;
  }
  await write(writer.end());
  return { series, samples };
}

function writerOf(format: SampleFormat): SampleWriter {
  switch (format) {
    case "openmetrics":
      return new OpenMetricsWriter();
    case "csv":
      return new CsvWriter();
    case "jsonl":
      return new JsonLinesWriter();
  }
}
