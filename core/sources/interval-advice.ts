/** What gathering a source costs, and whether its interval fits. */
export interface IntervalAdvice {
  readonly samplesPerDay: number;
  readonly bytesPerDay: number;
  /** A sentence for the person; undefined where nothing need be said. */
  readonly words: string | undefined;
}

const dayMs = 86_400_000;
/** Above this a slower interval is worth a thought; a thirtieth of a gigabyte a day is a gigabyte a month. */
const heavyBytesPerDay = 1e9 / 30;

/**
 * The cost of asking for `series` values every `intervalMs`, at `bytesPerSample` on disk. Common practice, no source:
 * 15 s usually,
 * 5 s for a close look, 1 s for minutes only, 5 to 15 min for a week.
 */
export function intervalAdvice(intervalMs: number, series: number, bytesPerSample: number, tookMs = 0): IntervalAdvice {
  const samplesPerDay = (dayMs / intervalMs) * series;
  const bytesPerDay = samplesPerDay * bytesPerSample;
  return { samplesPerDay, bytesPerDay, words: wordsFor(intervalMs, bytesPerDay, tookMs) };
}

function wordsFor(intervalMs: number, bytesPerDay: number, tookMs: number): string | undefined {
  if (tookMs * 2 > intervalMs)
    return `An answer takes ${(tookMs / 1000).toFixed(1)} s: an interval below ${Math.ceil((tookMs * 4) / 1000)} s keeps the machine busy with being asked.`;
  if (intervalMs < 5000)
    return "1 s is for minutes: to watch something that happens now. 15 s is usual, 5 s for a close look.";
  if (bytesPerDay > heavyBytesPerDay)
    return "This is much for one source. Leave out what you will not look at, or ask less often: every 15 s is usual.";
  if (intervalMs > 60_000) return "A spike between two answers is not seen; alerts come as late as this.";
  return undefined;
}
