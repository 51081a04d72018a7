import type { MachineEvent } from "../events/machine-event.ts";
import type { ReadingAnswer } from "../reading/document.ts";
import type { RunCost } from "../recordings/cost.ts";
import type { LineNumbers } from "../recordings/line-numbers.ts";
import type { EndedBecause, RecordingDocument, RunOrigin, RunPart } from "../recordings/recording.ts";
import type { IncidentView } from "../rules/rule.ts";
import { type Nothing, route } from "./route.ts";

/** A run as it stands in lists. */
export interface RunListed {
  readonly id: number;
  readonly recordingId: number;
  readonly origin: RunOrigin;
  readonly startedAtMs: number;
  /** When it is to end; null where only a bound or a person ends it. */
  readonly untilMs: number | null;
  /** Null while it is on. */
  readonly endedAtMs: number | null;
  readonly endedBecause: EndedBecause | null;
  readonly everySeconds: number;
  readonly samples: number;
  readonly bytes: number;
  /** The values of its first line that moved, from 0 to 1, for a strip; null where nothing is known. */
  readonly strip: readonly (number | null)[];
}

export interface RecordingView extends RecordingDocument {
  readonly id: number;
  /** When it begins next by its schedule. */
  readonly nextMs: number | null;
  readonly runs: number;
  readonly lastRun: RunListed | null;
}

/** A source whose series a recording holds, and whether it can be asked at the recording's interval. */
export interface RecordedSource {
  readonly id: number;
  readonly name: string;
  readonly machine: string;
  readonly series: number;
  /** How far apart its samples will be, in seconds. */
  readonly everySeconds: number;
  /** Why it keeps its own interval; null where it is gathered as the recording has it. */
  readonly why: string | null;
  /** What being asked takes there: of a core, measured; null where that cannot be known. */
  readonly share: number | null;
  /** How the share was measured, in words. */
  readonly method: string;
}

/** What a recording would cost, before it begins. */
export interface RecordingForecast {
  readonly series: number;
  readonly forSeconds: number;
  readonly cost: RunCost;
  readonly sources: readonly RecordedSource[];
  readonly advisedEverySeconds: number;
  /** What is advised, in words; null where the interval is about right. */
  readonly advice: string | null;
  /** What is over the budget, in words: it is asked about before it begins. */
  readonly over: readonly string[];
}

/** A run that is on. */
export interface RunningView extends RunListed {
  readonly name: string;
  /** Milliseconds that are left; null where it ends by a bound or by hand. */
  readonly leftMs: number | null;
  /** Of one core, here, measured since it began; null before it is known. */
  readonly serverShare: number | null;
}

export interface RunView {
  readonly id: number;
  readonly recordingId: number;
  readonly name: string;
  readonly origin: RunOrigin;
  readonly startedAtMs: number;
  readonly endedAtMs: number | null;
  readonly endedBecause: EndedBecause | null;
  readonly everySeconds: number;
  readonly parts: readonly RunPart[];
  readonly samples: number;
  readonly bytes: number;
  readonly document: RecordingDocument;
  readonly lines: LineNumbersAnswered;
  readonly reading: ReadingAnswer;
  /** What the reader should know, in sentences. */
  readonly notes: readonly string[];
  readonly events: readonly MachineEvent[];
  readonly incidents: readonly IncidentView[];
  /** Those that took most of the processor in it, by machine. */
  readonly processes: readonly UsedMost[];
}

export type LineNumbersAnswered = readonly LineNumbers[];

/** A process that took much of the processor within a run. */
export interface UsedMost {
  readonly machine: string;
  readonly process: string;
  /** Seconds of processor time. */
  readonly seconds: number;
}

export interface BeginBody {
  readonly forSeconds?: number;
  /** Begins although it is over the budget. */
  readonly anyway?: boolean;
}

export interface NoteBody {
  readonly text: string;
}

export const listRecordings = route("GET", "/recordings")<Nothing, readonly RecordingView[]>();
export const makeRecording = route("POST", "/recordings", 201)<RecordingDocument, RecordingView>();
export const getRecording = route("GET", "/recordings/:id")<Nothing, RecordingView>();
export const changeRecording = route("PUT", "/recordings/:id")<RecordingDocument, RecordingView>();
/** It is kept for a week, and can be brought back until then. */
export const removeRecording = route("DELETE", "/recordings/:id", 204)();
export const bringRecordingBack = route("POST", "/recordings/:id/bring-back", 204)();
export const forecastRecording = route("POST", "/recordings/forecast")<RecordingDocument, RecordingForecast>();
export const listRuns = route("GET", "/recordings/:id/runs")<Nothing, readonly RunListed[]>();
export const beginRun = route("POST", "/recordings/:id/runs", 201)<BeginBody, RunningView>();
export const stopRun = route("POST", "/recordings/:id/runs/:run/stop")<Nothing, RunListed>();
export const getRun = route("GET", "/recordings/:id/runs/:run")<Nothing, RunView>();
export const noteRun = route("POST", "/recordings/:id/runs/:run/notes")<NoteBody, RunListed>();
export const removeRun = route("DELETE", "/recordings/:id/runs/:run", 204)();
export const listRunning = route("GET", "/runs")<Nothing, readonly RunningView[]>();

/** How a file that is opened is called and read, where it does not say so itself. */
export interface OpenFileQuery {
  readonly name?: string;
  /** As `/push/csv` has them. */
  readonly decimal?: string;
  readonly times?: string;
  readonly zone?: number;
  readonly tags?: string;
}

export const openRunFile = route("POST", "/recordings/files", 201)<Nothing, RunListed, OpenFileQuery>();
/** The run as a file, by `format`: csv, openmetrics, or nubrel for one that another Nubrel opens. */
export const getRunFile = route("GET", "/recordings/:id/runs/:run/file")<
  Nothing,
  string,
  { readonly format?: string }
>();
