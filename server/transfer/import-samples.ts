import { createInterface } from "node:readline";
import type { Readable } from "node:stream";
import { CsvReader } from "../../core/formats/samples/csv-samples.ts";
import { JsonLinesReader } from "../../core/formats/samples/json-lines-samples.ts";
import { OpenMetricsReader } from "../../core/formats/samples/open-metrics-samples.ts";
import { type FileSeries, type SampleFormat, type SampleReader, type TakeSample, TextError } from "../../core/formats/samples/sample-format.ts";
import { batchOf } from "../../core/series/batch.ts";
import type { Refused } from "../store/admission.ts";
import type { Store } from "../store/store.ts";

const samplesAtOnce = 20_000;

/** What an import did: samples taken and durable, samples refused by reason. */
export interface Imported {
  readonly taken: number;
  readonly refused: Refused;
}

/** A file whose text cannot be read further; what stood before the place is stored. */
export class ImportError extends Error {
  readonly imported: Imported;
  constructor(error: TextError, imported: Imported) {
    super(`${error.message}. The ${imported.taken.toLocaleString("en")} samples before it are stored; correct the file and import it again: a sample that is there already is not doubled.`, { cause: error });
    this.name = "ImportError";
    this.imported = imported;
  }
}

/** Reads samples from text and stores them, a batch at a time; each is durable before the next is read. Throws ImportError, with the place, and StoreBusyError. */
export async function importSamples(store: Store, format: SampleFormat, text: Readable): Promise<Imported> {
  const rows: { readonly series: FileSeries; readonly timeMs: number; readonly value: number }[] = [];
  const imported = { taken: 0, refused: {} as Record<string, number> };
  const flush = async () => {
    if (rows.length === 0) return;
    const ids = await store.series.resolve(rows.map(({ series }) => series));
    const batch = batchOf(rows.map(({ timeMs, value }, i) => [ids[i] as number, timeMs, value]));
    rows.length = 0;
    const { taken, refused } = await store.write(batch);
    imported.taken += taken;
    for (const [reason, count] of Object.entries(refused)) imported.refused[reason] = (imported.refused[reason] ?? 0) + count;
  };
  const reader = readerOf(format, (series, timeMs, value) => void rows.push({ series, timeMs, value }));
  try {
    for await (const line of createInterface({ input: text, crlfDelay: Number.POSITIVE_INFINITY })) {
      reader.line(line);
      if (rows.length >= samplesAtOnce) await flush();
    }
    reader.end();
    await flush();
    return imported;
  } catch (error) {
    if (!(error instanceof TextError)) throw error;
    await flush();
    throw new ImportError(error, imported);
  }
}

function readerOf(format: SampleFormat, take: TakeSample): SampleReader {
  switch (format) {
    case "openmetrics":
      return new OpenMetricsReader(take);
    case "csv":
      return new CsvReader(take);
    case "jsonl":
      return new JsonLinesReader(take);
  }
}
