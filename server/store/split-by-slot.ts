import type { Batch } from "../../core/series/batch.ts";
import { slotMs, slotOf, slotStart } from "./slots.ts";

/** The rows of each slot in their order. Nearly always all rows are of one slot, and the batch itself is returned. */
export function splitBySlot(batch: Batch): ReadonlyMap<number, Batch> {
  const { series, timeMs, value, length } = batch;
  if (length > 0 && isOfOneSlot(batch)) return new Map([[slotOf(timeMs[0] as number), batch]]);
  let run: Run | undefined;
  const runs: Run[] = [];
  let before = Number.NaN;
  for (let i = 0; i < length; i++) {
    const time = timeMs[i] as number;
    if (run && time === before) {
      run.to = i + 1;
      continue;
    }
    before = time;
    const slot = slotOf(time);
    if (run?.slot !== slot) runs.push((run = { slot, from: i, to: i }));
    run.to = i + 1;
  }
  const lengths = new Map<number, number>();
  for (const { slot, from, to } of runs) lengths.set(slot, (lengths.get(slot) ?? 0) + to - from);
  const parts = new Map(
    [...lengths].map(([slot, n]) => [
      slot,
      { series: new Uint32Array(n), timeMs: new Float64Array(n), value: new Float64Array(n), length: n },
    ]),
  );
  const at = new Map<number, number>();
  for (const { slot, from, to } of runs) {
    const part = parts.get(slot) as Batch;
    const start = at.get(slot) ?? 0;
    part.series.set(series.subarray(from, to), start);
    part.timeMs.set(timeMs.subarray(from, to), start);
    part.value.set(value.subarray(from, to), start);
    at.set(slot, start + to - from);
  }
  return parts;
}

function isOfOneSlot({ timeMs, length }: Batch): boolean {
  const fromMs = slotStart(slotOf(timeMs[0] as number));
  const toMs = fromMs + slotMs;
  let i = 0;
  while (i < length && (timeMs[i] as number) >= fromMs && (timeMs[i] as number) < toMs) i++;
  return i === length;
}

interface Run {
  readonly slot: number;
  readonly from: number;
  to: number;
}
