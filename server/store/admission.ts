import type { Batch } from "../../core/series/batch.ts";

/** Samples may be this far ahead of the server's clock. */
export const mostAheadMs = 600_000;

export type RefusalReason = "older than retention" | "ahead of time" | "no time";

/** How many samples were not taken, and why. */
export type Refused = Readonly<Partial<Record<RefusalReason, number>>>;

/**
 * Leaves out what may not be stored: samples older than what is kept, more than ten minutes ahead, or without a time.
 * Times are
 * rounded to whole milliseconds. Gives the batch itself where nothing had to change.
 */
export function admit(
  batch: Batch,
  keptFromMs: number,
  nowMs: number,
): { readonly batch: Batch; readonly refused: Refused } {
  const { timeMs, length } = batch;
  let clean = true;
  let before = Number.NaN; // samples of one answer share their time
  for (let i = 0; i < length && clean; i++) {
    const time = timeMs[i] as number;
    if (time === before) continue;
    before = time;
    clean = time >= keptFromMs && time <= nowMs + mostAheadMs && Math.floor(time) === time;
  }
  if (clean) return { batch, refused: {} };
  const refused: Partial<Record<RefusalReason, number>> = {};
  const taken = {
    series: new Uint32Array(length),
    timeMs: new Float64Array(length),
    value: new Float64Array(length),
    length: 0,
  };
  for (let i = 0; i < length; i++) {
    const time = Math.round(timeMs[i] as number);
    const reason = reasonAgainst(time, keptFromMs, nowMs);
    if (reason) {
      refused[reason] = (refused[reason] ?? 0) + 1;
      continue;
    }
    taken.series[taken.length] = batch.series[i] as number;
    taken.timeMs[taken.length] = time;
    taken.value.set(batch.value.subarray(i, i + 1), taken.length++);
  }
  return { batch: taken, refused };
}

function reasonAgainst(time: number, keptFromMs: number, nowMs: number): RefusalReason | undefined {
  if (!Number.isFinite(time)) return "no time";
  if (time > nowMs + mostAheadMs) return "ahead of time";
  return time < keptFromMs ? "older than retention" : undefined;
}
