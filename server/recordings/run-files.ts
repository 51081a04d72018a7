import { CsvWriter } from "../../core/formats/samples/csv-samples.ts";
import { OpenMetricsWriter } from "../../core/formats/samples/open-metrics-samples.ts";
import type { SampleWriter } from "../../core/formats/samples/sample-format.ts";
import type { GivenShape } from "../../core/formats/csv/table-shape.ts";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { EndedBecause, RecordingDocument } from "../../core/recordings/recording.ts";
import { filedSeries, type RunFile, seriesOfFile } from "../../core/recordings/run-file.ts";
import { runOfText, TableDoubts } from "../../core/recordings/run-of-text.ts";
import type { RunSeries } from "../../core/recordings/run-series.ts";
import { TextError } from "../../core/pages/text-error.ts";
import { isStorable } from "../../core/text/storable.ts";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { runFileSchema } from "./recording-schema.ts";
import type { RunRow } from "./run-rows.ts";

/** What a run can be written as: its media type, and how its file's name ends. */
export const runFileFormats = {
  csv: { type: "text/csv; charset=utf-8", ends: "csv" },
  openmetrics: { type: "application/openmetrics-text; version=1.0.0; charset=utf-8", ends: "om.txt" },
  nubrel: { type: "application/octet-stream", ends: "nubrel-run.json" },
} as const;
export type RunFileFormat = keyof typeof runFileFormats;

/** The text of a run's file, piece by piece. */
export function* runFileText(
  format: RunFileFormat,
  row: RunRow,
  series: readonly RunSeries[],
  events: readonly MachineEvent[],
): Generator<string> {
  if (format !== "nubrel") {
    const writer: SampleWriter = format === "csv" ? new CsvWriter() : new OpenMetricsWriter();
    yield writer.head();
    // The series of a counter follow one another.
    for (const one of [...series].sort((a, b) => (a.counter < b.counter ? -1 : a.counter > b.counter ? 1 : 0)))
      yield writer.series(one, one.column);
    yield writer.end();
    return;
  }
  const head: Omit<RunFile, "series"> = {
    nubrelRun: 1,
    recording: row.document,
    startedAtMs: row.startedAtMs,
    endedAtMs: row.endedAtMs ?? row.startedAtMs,
    endedBecause: row.endedBecause ?? "by hand",
    notes: row.notes,
    events,
  };
  yield `${JSON.stringify(head).slice(0, -1)},"series":[\n`;
  for (let i = 0; i < series.length; i++)
    yield `${i === 0 ? "" : ",\n"}${JSON.stringify(filedSeries(series[i] as RunSeries))}`;
  yield "\n]}\n";
}

/** A run that was read from a file, whatever its form. */
export interface OpenedRun {
  readonly document: RecordingDocument;
  readonly series: readonly RunSeries[];
  readonly startedAtMs: number;
  readonly endedAtMs: number;
  readonly endedBecause: EndedBecause;
  readonly notes: readonly string[];
  readonly events: readonly MachineEvent[];
}

/** Opens a file as a run. Throws Problem, which says what is wrong and where; nothing of it is taken then. */
export function openedRun(bytes: Buffer, name: string, given: GivenShape): OpenedRun {
  const first = bytes.subarray(0, 200).toString("latin1").trimStart();
  try {
    const opened = first.startsWith("{")
      ? ofNubrel(bytes)
      : { ...runOfText(bytes, name, given), endedBecause: "file" as const, notes: [], events: [] };
    const bad = opened.series.find(
      ({ counter, unit, tags }) => ![counter, unit, ...Object.entries(tags).flat()].every(isStorable),
    );
    if (bad) throw new TextError(`${bad.counter} has a zero byte or half of a sign in its name or its tags`, 1);
    return opened;
  } catch (error) {
    if (error instanceof TableDoubts)
      throw new Problem(
        422,
        "how-is-it-read",
        `${error.message} Say how in the address (?decimal=, ?times=d/m/y, ?zone=60, ?tags=room,site), then open it again. Nothing of it was taken.`,
      );
    if (error instanceof TextError || error instanceof RangeError || error instanceof SyntaxError)
      throw new Problem(422, "the-file-cannot-be-read", `${error.message}. Nothing of it was taken.`);
    throw error;
  }
}

function ofNubrel(bytes: Buffer): OpenedRun {
  const file = checked(runFileSchema, JSON.parse(bytes.toString("utf8")) as unknown);
  return {
    document: file.recording,
    series: file.series.map(seriesOfFile),
    startedAtMs: file.startedAtMs,
    endedAtMs: file.endedAtMs,
    endedBecause: file.endedBecause,
    notes: file.notes,
    events: file.events,
  };
}
