import { LRUCache } from "lru-cache";

const dayMs = 86_400_000;

const aheadOf = new WeakMap<(ms: number) => number, LRUCache<string, Int32Array>>();

/**
 * How many steps of `stepMs` a clock is ahead of UTC where each of so many steps begins, and two days beyond the last
 * one. Lines that are read together share their times: worked out once for each clock and grid.
 */
export function stepsAhead(
  offsetMs: (ms: number) => number,
  startMs: number,
  stepMs: number,
  steps: number,
): Int32Array {
  const known = aheadOf.get(offsetMs) ?? new LRUCache<string, Int32Array>({ max: 8 });
  aheadOf.set(offsetMs, known);
  const key = `${startMs} ${stepMs} ${steps}`;
  let ahead = known.get(key);
  if (!ahead) {
    const beyond = Math.ceil((2 * dayMs) / stepMs);
    ahead = Int32Array.from({ length: steps + beyond + 1 }, (_, i) =>
      Math.round(offsetMs(startMs + i * stepMs) / stepMs),
    );
    known.set(key, ahead);
  }
  return ahead;
}
