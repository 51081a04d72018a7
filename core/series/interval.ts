/**
 * A value holds for this many intervals of its source, its reach; a longer silence is a gap: nothing is drawn across it
 * and no rate is taken over it.
 */
export const reachFactor = 3;
/**
 * A lone sample of a source of unknown interval holds for this long: it is shown in its step, and nothing more is said
 * of it.
 */
export const leastHoldMs = 1;
const looksAt = 256;

/**
 * The usual distance between samples in ms: the median of the newest 256 distances; NaN with fewer than two samples.
 */
export function medianIntervalMs(timeMs: Float64Array): number {
  const first = Math.max(1, timeMs.length - looksAt);
  const distances = new Float64Array(Math.max(0, timeMs.length - first));
  for (let i = first; i < timeMs.length; i++) distances[i - first] = timeMs[i] - timeMs[i - 1];
  distances.sort();
  return distances[distances.length >> 1] ?? Number.NaN;
}

/**
 * How far apart two samples may be, in ms, and still belong together: the reach of each. `intervalMs` is the present
 * interval of the source;
 * where that is not known (NaN), the times tell it; 0 where they do not either.
 */
export function reachMs(timeMs: Float64Array, intervalMs = Number.NaN): number {
  const median = meantIntervalMs(intervalMs > 0 ? intervalMs : medianIntervalMs(timeMs));
  return median > 0 ? median * reachFactor : 0;
}

/** The interval that is meant by a measured one, which is off by a little: whole seconds, within 2 %. */
export function meantIntervalMs(measuredMs: number): number {
  const seconds = Math.max(1, Math.round(measuredMs / 1000)) * 1000;
  return Math.abs(seconds - measuredMs) <= 0.02 * measuredMs ? seconds : measuredMs;
}

/** Neighbours on each side that tell what is usual around a pair. */
const neighbours = 6;

/**
 * Whether sample `i` and the one before it belong together: they are no farther apart than `reach` (of the whole
 * column), or than is usual just there.
 * The interval of a source may have been another once: what was gathered every minute does not become gaps because it
 * is every five seconds now.
 */
export function isTogether(timeMs: Float64Array, i: number, reach: number): boolean {
  const distance = timeMs[i] - timeMs[i - 1];
  return distance <= reach || (reach > 0 && distance <= reachFactor * medianAround(timeMs, i));
}

/** For how long, in ms, the value of sample `i` holds: until the next sample, for its reach at most. */
export function holdMs(timeMs: Float64Array, i: number, reach: number): number {
  const distance = i + 1 < timeMs.length ? timeMs[i + 1] - timeMs[i] : Number.POSITIVE_INFINITY;
  return distance <= reach
    ? distance
    : Math.min(distance, Math.max(reach, reach > 0 ? reachFactor * medianAround(timeMs, i + 1) : 0));
}

/** The median of the distances around a pair, its own left out; 0 with fewer than `neighbours` of them. */
function medianAround(timeMs: Float64Array, i: number): number {
  const distances: number[] = [];
  for (let k = Math.max(1, i - neighbours); k <= Math.min(timeMs.length - 1, i + neighbours); k++)
    if (k !== i) distances.push(timeMs[k] - timeMs[k - 1]);
  if (distances.length < neighbours) return 0;
  distances.sort((a, b) => a - b);
  return distances[distances.length >> 1];
}
