import { deviationShare } from "../baseline/usual-range.ts";
import { quantile } from "../series/quantile.ts";
import { medianOf } from "../series/select.ts";

/** What a step must exceed the quiet level by to count at least, and how much of it must add up, in deviations. */
const leastSlack = 0.75;
const alarm = 6;
/**
 * A sum finds a change of a known size soonest, and is fooled least, with half of it as the slack; a quarter, as changes
 * may begin slowly.
 */
const slackShare = 0.25;

/**
 * The step in which a line began to move to one side (`side` 1: up, -1: down): by Page's cumulative sum (E. S. Page,
 * Continuous inspection schemes, Biometrika 41, 1954), whose last zero before the alarm is where the change began.
 * `values` are steps, NaN for gaps; those before `quiet` are from before the span and say what is quiet and how much it
 * varies. Undefined where nothing adds up, or less than three values are quiet.
 */
export function onsetOf(values: Float64Array, quiet: number, side: 1 | -1): number | undefined {
  const before = values.subarray(0, quiet).filter(Number.isFinite);
  if (before.length < 3) return undefined;
  const level = medianOf(Float64Array.from(before), before.length);
  const apart = before.map((value) => Math.abs(value - level));
  // What never varied before has a spread all the same: a twentieth of its level, or of the highest that comes.
  let most = 0;
  for (const value of values) if (Math.abs(value - level) > most) most = Math.abs(value - level);
  const spread = Math.max(deviationShare * medianOf(apart, apart.length), Math.abs(level) / 20, most / 50);
  if (spread === 0) return undefined;
  const moves = Float64Array.from(values.subarray(quiet).filter(Number.isFinite), (v) => (side * (v - level)) / spread);
  const slack = Math.max(leastSlack, moves.length === 0 ? 0 : slackShare * quantile(moves.sort(), 0.75));
  let sum = 0;
  let began = 0;
  for (let i = 0; i < values.length; i++) {
    const value = values[i];
    if (!Number.isFinite(value)) continue;
    const next = Math.max(0, sum + (side * (value - level)) / spread - slack);
    if (sum === 0 && next > 0) began = i;
    sum = next;
    if (sum > alarm) return sharpened(values, began, i);
  }
  return undefined;
}

/** So many steps around the first guess are looked at. */
const around = 40;

/**
 * Where a level most likely changed near a first guess: the step that parts what is around it into two means that are
 * furthest apart, by their weight (D. V. Hinkley, Inference about the change-point in a sequence of random variables,
 * Biometrika 57, 1970). A sum has its last zero some steps too early where a line drifts.
 */
function sharpened(values: Float64Array, began: number, alarmed: number): number {
  const from = Math.max(0, began - around / 2);
  const to = Math.min(values.length, alarmed + around / 4);
  let all = 0;
  let count = 0;
  for (let i = from; i < to; i++)
    if (Number.isFinite(values[i] as number)) {
      all += values[i];
      count++;
    }
  let best = began;
  let furthest = 0;
  let sum = 0;
  let n = 0;
  for (let i = from; i < alarmed; i++) {
    const value = values[i];
    if (Number.isFinite(value)) {
      sum += value;
      n++;
    }
    if (n === 0 || n === count) continue;
    const apart = (n * (count - n) * (sum / n - (all - sum) / (count - n)) ** 2) / count;
    if (apart > furthest) {
      furthest = apart;
      best = i + 1;
    }
  }
  return best;
}
