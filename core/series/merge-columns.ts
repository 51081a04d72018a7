import type { Column } from "./batch.ts";

/**
 * Merges two columns by time; where both have a time, `newer` wins. Returns an argument itself where the other is
 * empty.
 */
export function mergeColumns(older: Column, newer: Column): Column {
  const n = older.timeMs.length;
  const m = newer.timeMs.length;
  if (m === 0) return older;
  if (n === 0) return newer;
  const timeMs = new Float64Array(n + m);
  const value = new Float64Array(n + m);
  let i = 0;
  let j = 0;
  let k = 0;
  while (i < n || j < m) {
    const a = i < n ? older.timeMs[i] : Number.POSITIVE_INFINITY;
    const b = j < m ? newer.timeMs[j] : Number.POSITIVE_INFINITY;
    if (a < b) {
      timeMs[k] = a;
      value[k++] = older.value[i++];
    } else {
      timeMs[k] = b;
      value[k++] = newer.value[j++];
      if (a === b) i++;
    }
  }
  return { timeMs: timeMs.subarray(0, k), value: value.subarray(0, k) };
}

/** Sorts rows given in writing order into a column; of equal times the last written stays. */
export function columnFromRows(times: readonly number[], values: readonly number[]): Column {
  const order = Uint32Array.from(times, (_, i) => i).sort((a, b) => times[a] - times[b] || a - b);
  const timeMs = new Float64Array(order.length);
  const value = new Float64Array(order.length);
  let k = 0;
  for (const row of order) {
    const time = times[row];
    if (k > 0 && timeMs[k - 1] === time) k--;
    timeMs[k] = time;
    value[k++] = values[row];
  }
  return { timeMs: timeMs.subarray(0, k), value: value.subarray(0, k) };
}

/** The part of a column with `fromMs <= time < toMs`, as views. */
export function cutColumn(column: Column, fromMs: number, toMs: number): Column {
  const start = firstAtOrAfter(column.timeMs, fromMs);
  const end = firstAtOrAfter(column.timeMs, toMs);
  return { timeMs: column.timeMs.subarray(start, end), value: column.value.subarray(start, end) };
}

/** Index of the first element that is at least `time`; the length where none is. */
export function firstAtOrAfter(times: Float64Array, time: number): number {
  let low = 0;
  let high = times.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (times[middle] < time) low = middle + 1;
    else high = middle;
  }
  return low;
}
