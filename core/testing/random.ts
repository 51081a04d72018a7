/**
 * A seeded generator of numbers in [0, 1): the seed stands in a test's name, so that a failure can be repeated.
 * Mulberry32 (public domain).
 */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A number of the standard normal distribution, by Box and Muller (Annals of Mathematical Statistics 29(2), 1958). */
export function gaussian(random: () => number): number {
  return Math.sqrt(-2 * Math.log(random() || Number.MIN_VALUE)) * Math.cos(2 * Math.PI * random());
}
