import type { Batch } from "../../core/series/batch.ts";

const windowSeconds = 60;
/**
 * Older samples are an import, or a past that somebody catches up with: they say nothing about what comes from now on.
 */
const recentMs = 15 * 60_000;

/** How many samples of a batch were gathered lately. */
export function recentSamples({ timeMs, length }: Pick<Batch, "timeMs" | "length">, nowMs: number): number {
  let recent = 0;
  for (let i = 0; i < length; i++) if ((timeMs[i] as number) > nowMs - recentMs) recent++;
  return recent;
}

/** Samples a second over the last minute (or since the start, where that is less). */
export class SampleRate {
  readonly #counts = new Map<number, number>();
  #startMs: number | undefined;

  count(samples: number, nowMs: number): void {
    this.#startMs ??= nowMs;
    const second = Math.floor(nowMs / 1000);
    this.#counts.set(second, (this.#counts.get(second) ?? 0) + samples);
    for (const old of this.#counts.keys()) if (old <= second - windowSeconds) this.#counts.delete(old);
  }

  perSecond(nowMs: number): number {
    if (this.#startMs === undefined) return 0;
    const second = Math.floor(nowMs / 1000);
    let sum = 0;
    for (const [at, samples] of this.#counts) if (at > second - windowSeconds) sum += samples;
    const span = Math.min(windowSeconds, Math.max(1, (nowMs - this.#startMs) / 1000));
    return Math.round((sum / span) * 10) / 10;
  }
}
