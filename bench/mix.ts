import { seeded } from "../core/testing/random.ts";

/**
 * The bench's data set: series as a few self-hosted machines give them, gathered every 15 s (or 5 s) with a few ms of
 * jitter that all series of an
 * answer share. Of 20 series:
 *  - 8 growing integers: bytes of busy and of quiet interfaces, packets, operations, ticks of processors, errors that
 *    hardly ever grow
 *  - 5 levels of memory in pages of 4096 bytes: slowly drifting, and stepping when something starts
 *  - 3 percentages with two decimals, wandering between 0 and 100, at rest for hours now and then
 *  - 2 constants: sizes, limits, states
 *  - 2 numbers of full precision: temperatures after a calibration, quotients
 */
export const mixEvery = 20;

/** One series: what it gives from answer to answer. */
export type Source = () => number;

export function mixedSeries(index: number, seed: number): Source {
  const random = seeded(seed * 100_003 + index);
  const kind = index % mixEvery;
  if (kind < 8) return growing(kind, random);
  if (kind < 13) return pages(kind, random);
  if (kind < 16) return percentage(random);
  if (kind < 18) {
    const v = kind === 16 ? 8_589_934_592 : Math.floor(random() * 100);
    return () => v;
  }
  return precise(random);
}

function growing(kind: number, random: () => number): Source {
  let total = Math.floor(random() * 1e9);
  // What comes in 15 s: bytes of two interfaces, packets, read and write operations, ticks of user and idle, errors.
  const around = [40_000, 1_500, 120, 30, 9, 150, 1_480, 0.002][kind] as number;
  let level = 1;
  return () => {
    level = Math.min(4, Math.max(0.25, level * (0.9 + random() * 0.2)));
    total += Math.floor(around * level * (0.7 + random() * 0.6) + random());
    return total;
  };
}

function pages(kind: number, random: () => number): Source {
  let level = 100_000 + Math.floor(random() * 1e6);
  return () => {
    if (random() < 0.01) level = Math.max(1000, level + Math.floor((random() - 0.5) * 20_000));
    else if (random() < ([0.9, 0.5, 0.2, 0.8, 0.05][kind - 8] as number))
      level = Math.max(1000, level + Math.floor((random() - 0.5) * 60));
    return level * 4096;
  };
}

function percentage(random: () => number): Source {
  let level = random() * 60;
  let rest = 0;
  return () => {
    if (rest > 0) rest--;
    else {
      level = Math.min(100, Math.max(0, level + (random() - 0.5) * 3));
      if (random() < 0.003) rest = 240;
    }
    return Math.round(level * 100) / 100;
  };
}

function precise(random: () => number): Source {
  let level = 30 + random() * 20;
  return () => (level += (random() - 0.5) * 0.3 + (40 - level) * 0.01);
}

/** Times of answers from `fromMs` on. */
export function answerTimes(fromMs: number, count: number, everyMs: number, seed: number): Float64Array {
  const random = seeded(seed);
  return Float64Array.from({ length: count }, (_, i) => fromMs + i * everyMs + Math.floor(random() * 6));
}
