import type { CounterKind, Falls, Tags } from "../counters/counter.ts";
import type { MachineEvent } from "../events/machine-event.ts";
import type { Column } from "../series/batch.ts";
import { numberText, parseNumber } from "../text/number-text.ts";
import type { EndedBecause, RecordingDocument } from "./recording.ts";
import type { RunSeries } from "./run-series.ts";

/** A series in a run's file: times as distances from the one before, in ms, the first from 1970. */
export interface FiledSeries {
  readonly counter: string;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly tags: Tags;
  readonly falls?: Falls;
  readonly of: readonly string[];
  readonly afterMs: readonly number[];
  /** Numbers; as texts those that JSON has no form for. */
  readonly values: readonly (number | string)[];
}

/** One file that holds a whole run: another Nubrel opens it without anything else. */
export interface RunFile {
  /** The version of this form. */
  readonly nubrelRun: 1;
  readonly recording: RecordingDocument;
  readonly startedAtMs: number;
  readonly endedAtMs: number;
  readonly endedBecause: EndedBecause;
  readonly notes: readonly string[];
  readonly events: readonly MachineEvent[];
  readonly series: readonly FiledSeries[];
}

export function filedSeries({ column: { timeMs, value }, ...series }: RunSeries): FiledSeries {
  let before = 0;
  const afterMs = Array.from(timeMs, (ms) => {
    const distance = ms - before;
    before = ms;
    return distance;
  });
  const values = Array.from(value, (v) => (Number.isFinite(v) && !Object.is(v, -0) ? v : numberText(v)));
  return { ...series, afterMs, values };
}

/** The series as it was. Throws RangeError, in words, where its columns do not fit or its times do not ascend. */
export function seriesOfFile({ afterMs, values, ...series }: FiledSeries): RunSeries {
  const wrong = (what: string) => new RangeError(`${series.counter}: ${what}`);
  if (afterMs.length !== values.length) throw wrong(`${afterMs.length} times and ${values.length} values`);
  let now = 0;
  const timeMs = Float64Array.from(afterMs, (distance, i) => {
    if (i > 0 && distance <= 0) throw wrong(`time ${i + 1} is not after the one before`);
    now += distance;
    return now;
  });
  const value = Float64Array.from(values, (v, i) => {
    const number = typeof v === "number" ? v : parseNumber(v);
    if (number === undefined) throw wrong(`value ${i + 1} is no number`);
    return number;
  });
  const column: Column = { timeMs, value };
  return { ...series, column };
}
