import { readRun, type RunReading } from "../../core/recordings/run-reading.ts";
import type { RecordingDocument } from "../../core/recordings/recording.ts";
import type { RunSeries } from "../../core/recordings/run-series.ts";
import { workKind } from "../work/work-kind.ts";

/** A run's samples, to be worked out. */
export interface RunTask {
  readonly document: Pick<RecordingDocument, "sentences" | "everySeconds">;
  readonly series: readonly RunSeries[];
  readonly fromMs: number;
  readonly toMs: number;
}

export const readRunKind = workKind<RunTask, RunReading>("read run");

/** The lines and numbers of a run. */
export const workOutRun = ({ document, series, fromMs, toMs }: RunTask): RunReading =>
  readRun(document, series, fromMs, toMs);
