/** A silence longer than this many usual intervals is a gap: nothing is drawn across it and no rate is taken over it. */
const gapFactor = 2.5;
const looksAt = 256;

/** The usual distance between samples in ms: the median of the newest 256 distances; NaN with fewer than two samples. */
export function usualIntervalMs(timeMs: Float64Array): number {
  const first = Math.max(1, timeMs.length - looksAt);
  const distances = new Float64Array(Math.max(0, timeMs.length - first));
  for (let i = first; i < timeMs.length; i++) distances[i - first] = (timeMs[i] as number) - (timeMs[i - 1] as number);
  distances.sort();
  return distances[distances.length >> 1] ?? Number.NaN;
}

/** How far apart two samples may be, in ms, and still belong together; 0 where the usual interval is unknown. */
export function reachMs(timeMs: Float64Array): number {
  const usual = usualIntervalMs(timeMs);
  return usual > 0 ? usual * gapFactor : 0;
}

/** Neighbours on each side that tell what is usual around a pair. */
const neighbours = 6;

/**
 * Whether sample `i` and the one before it belong together: they are no farther apart than `reach` (of the whole column), or than is usual just there.
 * The interval of a source may have been another once: what was gathered every minute does not become gaps because it is every five seconds now.
 */
export function isTogether(timeMs: Float64Array, i: number, reach: number): boolean {
  const distance = (timeMs[i] as number) - (timeMs[i - 1] as number);
  return distance <= reach || (reach > 0 && distance <= gapFactor * usualAround(timeMs, i));
}

/** The median of the distances around a pair, its own left out; 0 with fewer than `neighbours` of them. */
function usualAround(timeMs: Float64Array, i: number): number {
  const distances: number[] = [];
  for (let k = Math.max(1, i - neighbours); k <= Math.min(timeMs.length - 1, i + neighbours); k++) if (k !== i) distances.push((timeMs[k] as number) - (timeMs[k - 1] as number));
  if (distances.length < neighbours) return 0;
  distances.sort((a, b) => a - b);
  return distances[distances.length >> 1] as number;
}
