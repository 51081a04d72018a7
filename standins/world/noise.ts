/**
 * A number in [0, 1) that depends only on its arguments: the sample world is the same at every start. Mixing steps of
 * MurmurHash3's finaliser (public domain).
 */
export function noise(seed: number, at: number): number {
  let h = (seed * 0x9e3779b1 + Math.floor(at / 4294967296) * 0x85ebca6b + (at | 0)) | 0;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Noise that wanders: interpolated between values `period` apart. */
export function wander(seed: number, at: number, period: number): number {
  const step = Math.floor(at / period);
  const share = at / period - step;
  const smooth = share * share * (3 - 2 * share);
  return noise(seed, step) * (1 - smooth) + noise(seed, step + 1) * smooth;
}
