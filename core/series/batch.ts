/** Samples as columns; rows `0..length-1` are valid, the arrays may be longer. */
export interface Batch {
  /** Series ids of the store. */
  readonly series: Uint32Array;
  /** Milliseconds since 1970-01-01 UTC. */
  readonly timeMs: Float64Array;
  readonly value: Float64Array;
  readonly length: number;
}

/** Samples run by run: the values of a run's series, which share its time, stand after those of the run before. */
export interface Runs {
  /** The series of each run; runs of the same ones share the array. */
  readonly series: readonly Uint32Array[];
  /** The time of each run, ms. */
  readonly timeMs: readonly number[];
  /** Values `0..length-1` are valid, the array may be longer. */
  readonly value: Float64Array;
  readonly length: number;
}

/** The same samples with a series and a time for each. */
export function batchOfRuns({ series, timeMs, value, length }: Runs): Batch {
  const batch = { series: new Uint32Array(length), timeMs: new Float64Array(length), value, length };
  let at = 0;
  series.forEach((ids, run) => {
    batch.series.set(ids, at);
    batch.timeMs.fill(timeMs[run], at, at + ids.length);
    at += ids.length;
  });
  return batch;
}

/** The samples of one series in ascending time, each time once. */
export interface Column {
  readonly timeMs: Float64Array;
  readonly value: Float64Array;
}

export const emptyColumn: Column = { timeMs: new Float64Array(0), value: new Float64Array(0) };

/** Makes a batch of rows; for tests and small writers. */
export function batchOf(rows: readonly (readonly [series: number, timeMs: number, value: number])[]): Batch {
  const batch = {
    series: new Uint32Array(rows.length),
    timeMs: new Float64Array(rows.length),
    value: new Float64Array(rows.length),
    length: rows.length,
  };
  rows.forEach(([series, timeMs, value], i) => {
    batch.series[i] = series;
    batch.timeMs[i] = timeMs;
    batch.value[i] = value;
  });
  return batch;
}

/** Joins batches in their order: on equal series and time the later one wins when stored. */
export function joinBatches(batches: readonly Batch[]): Batch {
  if (batches.length === 1) return batches[0] as Batch;
  let length = 0;
  for (const batch of batches) length += batch.length;
  const joined = {
    series: new Uint32Array(length),
    timeMs: new Float64Array(length),
    value: new Float64Array(length),
    length,
  };
  let at = 0;
  for (const batch of batches) {
    joined.series.set(batch.series.subarray(0, batch.length), at);
    joined.timeMs.set(batch.timeMs.subarray(0, batch.length), at);
    joined.value.set(batch.value.subarray(0, batch.length), at);
    at += batch.length;
  }
  return joined;
}
