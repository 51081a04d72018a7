import type { SentencePlan } from "../../../core/reading/plan.ts";
import { fiveMinutesMs, hourMs } from "../../../core/series/rollup.ts";

/** A stretch of time `[fromMs, toMs)` that is read from one tier. */
export interface Span {
  readonly tier: "raw" | "5m" | "1h";
  readonly fromMs: number;
  readonly toMs: number;
}

/** Up to where the buckets of each tier are complete, and from where on samples are kept, ms. */
export interface TierBounds {
  readonly fiveMinutesUntilMs: number;
  readonly hoursUntilMs: number;
  readonly rawFromMs: number;
}

/**
 * What is read from where, ascending and without gaps: the sentence's tier up to where its buckets are complete, then
 * the finer one. Where a window that is summed
 * begins or ends inside a bucket, that bucket is read from the tier below, so that only what lies in the window is
 * counted.
 */
export function readingSpans(
  { tier, fromMs, toMs, clipFromMs, clipToMs, addsGrowth, ofEvery, sums }: SentencePlan,
  bounds: TierBounds,
): readonly Span[] {
  if (tier === "raw" || fromMs >= bounds.fiveMinutesUntilMs) return [{ tier: "raw", fromMs, toMs }];
  const cuts = addsGrowth || sums || ofEvery === "sum" || ofEvery === "count" ? [clipFromMs, clipToMs] : [];
  const isCut = (start: number, resolutionMs: number) => cuts.some((cut) => cut > start && cut < start + resolutionMs);
  const marks = new Set([fromMs, toMs, bounds.fiveMinutesUntilMs, bounds.hoursUntilMs]);
  for (const cut of cuts)
    for (const resolutionMs of [fiveMinutesMs, hourMs])
      for (const mark of [Math.floor(cut / resolutionMs), Math.ceil(cut / resolutionMs)])
        marks.add(mark * resolutionMs);
  const ascending = [...marks].filter((mark) => mark >= fromMs && mark <= toMs).sort((a, b) => a - b);
  const spans: Span[] = [];
  for (let i = 0; i + 1 < ascending.length; i++) {
    const [from, to] = [ascending[i] as number, ascending[i + 1] as number];
    const five = Math.floor(from / fiveMinutesMs) * fiveMinutesMs;
    const hour = Math.floor(from / hourMs) * hourMs;
    const isRaw = from >= bounds.fiveMinutesUntilMs || (isCut(five, fiveMinutesMs) && five >= bounds.rawFromMs);
    const own: Span["tier"] = isRaw
      ? "raw"
      : tier === "5m" || from >= bounds.hoursUntilMs || isCut(hour, hourMs)
        ? "5m"
        : "1h";
    const before = spans.at(-1);
    if (before?.tier === own) spans[spans.length - 1] = { ...before, toMs: to };
    else spans.push({ tier: own, fromMs: from, toMs: to });
  }
  return spans;
}
