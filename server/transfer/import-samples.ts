import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import { TextError } from "../../core/pages/text-error.ts";
import { createInterface } from "node:readline";
import type { Readable } from "node:stream";
import { CsvReader } from "../../core/formats/samples/csv-samples.ts";
import { JsonLinesReader } from "../../core/formats/samples/json-lines-samples.ts";
import { OpenMetricsReader } from "../../core/formats/samples/open-metrics-samples.ts";
import type { SampleFormat, SampleReader, TakeSample } from "../../core/formats/samples/sample-format.ts";
import type { Refused } from "../store/admission.ts";
import { defaultLimits } from "../sources/intake-limit-rows.ts";
import { SeriesBudget, SeriesTable, type TableSource, unstorable } from "../sources/series-table.ts";
import { ImportRows } from "./import-rows.ts";
import type { Store } from "../store/store.ts";

const samplesAtOnce = 20_000;
const mostOfLine = 4_000_000;
/** What is remembered of one text; how many of its series may be new, the limits of intake say. */
const mostSeries = 2_000_000;

/** What an import did: samples taken and durable, samples refused by reason. */
export interface Imported {
  readonly taken: number;
  readonly refused: Refused;
}

/** An import that went no further: the text cannot be read, or cannot be stored. What was stored before is told. */
export class ImportError extends Error {
  readonly imported: Imported;
  constructor(error: Error, imported: Imported) {
    const isText = error instanceof TextError;
    super(
      `${error.message}. ${isText ? `The ${imported.taken.toLocaleString("en")} samples before it are stored; correct the file and` : `${imported.taken.toLocaleString("en")} samples were stored before that; when it is mended,`} import it again: a sample that is there already is not doubled.`,
      { cause: error },
    );
    this.name = "ImportError";
    this.imported = imported;
  }
}

/**
 * Reads samples from text and stores them, a batch at a time; each is durable before the next is read. Throws
 * ImportError, with the place where it is the text's.
 */
export async function importSamples(
  store: Store,
  format: SampleFormat,
  text: Readable,
  limits: IntakeLimits = defaultLimits,
): Promise<Imported> {
  const source: TableSource = { id: undefined, kind: "import", machine: "", tags: {}, take: [] };
  const table = new SeriesTable(store, source, new SeriesBudget("in one import"), undefined);
  const rows = new ImportRows();
  const imported = { taken: 0, refused: {} as Record<string, number> };
  const flush = async () => {
    if (rows.length === 0) return;
    // How fast new series may come is for what sends on and on; one text is bounded by its series alone.
    const { taken, leftOut } = await table.write(
      rows.series,
      rows.take(),
      { ...limits, newSeriesPerMinute: Number.POSITIVE_INFINITY },
      { nowMs: Date.now() },
    );
    imported.taken += taken;
    for (const [reason, count] of Object.entries(leftOut))
      imported.refused[reason] = (imported.refused[reason] ?? 0) + count;
  };
  let number = 0;
  const reader = readerOf(format, (series, timeMs, value) => {
    if (!rows.add(series, timeMs, value)) throw new TextError(`there is ${unstorable}`, number);
    if (rows.series.length > mostSeries)
      throw new TextError(
        `the text names more than ${mostSeries.toLocaleString("en")} series; cut it by machines or counters`,
        number,
      );
  });
  try {
    for await (const line of createInterface({ input: text, crlfDelay: Number.POSITIVE_INFINITY })) {
      number++;
      if (line.length > mostOfLine)
        throw new TextError(
          `the line has ${line.length.toLocaleString("en")} signs; ${mostOfLine.toLocaleString("en")} are the most`,
          number,
        );
      reader.line(line);
      if (rows.length >= samplesAtOnce) await flush();
    }
    reader.end();
    await flush();
    return imported;
  } catch (error) {
    if (!(error instanceof TextError)) throw new ImportError(error as Error, imported);
    try {
      await flush();
    } catch (failure) {
      throw new ImportError(failure as Error, imported); // what stood before the place is not stored
    }
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
