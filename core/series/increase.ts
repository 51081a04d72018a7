import type { Column } from "./batch.ts";

const wrap32 = 2 ** 32;
/** A total that falls by less than this share has been corrected, not restarted: proc(5) says of iowait and idle that they may decrease. */
const correctionShare = 0.1;
/** A wrap is believed while its rate stays below this multiple of the fastest rate seen around it. */
const plausibleFactor = 4;

/**
 * The increases between neighbouring samples of a total, `result[i]` from sample `i` to `i + 1`, never negative.
 *
 * A fall is, in this order:
 *  - a correction (less than a tenth lost): 0;
 *  - a wrap of a 32-bit counter (RFC 2578 §7.1.6), where the sample before was at least 2^31 and below 2^32 and the
 *    rate that follows is at most four times the fastest rate among the other neighbours: `after + 2^32 − before`;
 *  - a restart at 0: `after`, which is what has been counted since.
 * NaN on either side gives NaN.
 */
export function increases(column: Column): Float64Array {
  const { timeMs, value } = column;
  const n = Math.max(0, value.length - 1);
  const result = new Float64Array(n);
  let fastest = -1;
  for (let i = 0; i < n; i++) {
    const before = value[i] as number;
    const after = value[i + 1] as number;
    const step = after - before;
    if (step >= 0 || Number.isNaN(step)) {
      result[i] = step;
      continue;
    }
    if (after > before * (1 - correctionShare)) {
      result[i] = 0;
      continue;
    }
    const wrapped = after + wrap32 - before;
    if (before >= wrap32 / 2 && before < wrap32) {
      if (fastest < 0) fastest = fastestRise(timeMs, value);
      const rate = wrapped / ((timeMs[i + 1] as number) - (timeMs[i] as number));
      if (rate <= fastest * plausibleFactor) {
        result[i] = wrapped;
        continue;
      }
    }
    result[i] = after;
  }
  return result;
}

function fastestRise(timeMs: Float64Array, value: Float64Array): number {
  let fastest = 0;
  for (let i = 1; i < value.length; i++) {
    const rate = ((value[i] as number) - (value[i - 1] as number)) / ((timeMs[i] as number) - (timeMs[i - 1] as number));
    if (rate > fastest) fastest = rate;
  }
  return fastest;
}
