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
