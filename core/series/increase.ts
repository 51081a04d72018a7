import type { Falls } from "../counters/counter.ts";
import type { Column } from "./batch.ts";

/**
 * A total whose format says that corrections occur has been corrected where it falls by less than this share, and
 * restarted where it falls by more.
 */
const correctionShare = 0.1;
/** A wrap is believed while its rate stays below this multiple of the fastest rate seen around it. */
const plausibleFactor = 4;

/**
 * The increases between neighbouring samples of a total, `result[i]` from sample `i` to `i + 1`, never negative. What a
 * fall means is said by
 * the format that the total came in (`falls`); NaN and infinities on either side give NaN.
 */
export function increases(column: Column, falls: Falls = "restart"): Float64Array {
  const { timeMs, value } = column;
  const n = Math.max(0, value.length - 1);
  const result = new Float64Array(n);
  let fastest = -1;
  for (let i = 0; i < n; i++) {
    const before = value[i];
    const after = value[i + 1];
    const step = after - before;
    if (step >= 0 && step < Number.POSITIVE_INFINITY) {
      result[i] = step;
      continue;
    }
    if (typeof falls === "number" && fastest < 0) fastest = fastestRise(timeMs, value);
    result[i] = growthBetween(before, after, falls, timeMs[i + 1] - timeMs[i], fastest);
  }
  return result;
}

/**
 * How much a total grew from one reading to the next, `elapsedMs` later. A fall is
 *  - of a total whose format says so ("corrected"): a correction, which counts 0, where less than a tenth is lost;
 *  - of a counter that wraps at a number (2^32 of SNMP's Counter32, RFC 2578 §7.1.6) and stood at half of it or higher:
 *    `after + wrap − before`, where
 *    the rate that follows is at most four times the fastest that was seen (`fastestPerMs`);
 *  - else a restart at 0: `after`, which is what has been counted since.
 */
export function growthBetween(
  before: number,
  after: number,
  falls: Falls,
  elapsedMs: number,
  fastestPerMs: number,
): number {
  const step = after - before;
  if (step - step !== 0) return Number.NaN; // NaN and infinities
  if (step >= 0) return step;
  if (falls === "corrected" && after > before * (1 - correctionShare)) return 0;
  if (typeof falls === "number" && before >= falls / 2 && before < falls) {
    const wrapped = after + falls - before;
    if (wrapped / elapsedMs <= fastestPerMs * plausibleFactor) return wrapped;
  }
  return Math.max(0, after);
}

function fastestRise(timeMs: Float64Array, value: Float64Array): number {
  let fastest = 0;
  for (let i = 1; i < value.length; i++) {
    const rate = (value[i] - value[i - 1]) / (timeMs[i] - timeMs[i - 1]);
    if (rate > fastest && rate < Number.POSITIVE_INFINITY) fastest = rate;
  }
  return fastest;
}
