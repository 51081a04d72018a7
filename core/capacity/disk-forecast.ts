const dayMs = 86_400_000;

/**
 * What a sample takes on disk, indexes included, until that is measured: counters of machines every 5 to 15 s, by the
 * bench (docs/limits.md), and half as much again for the first hours, which are stored in small pieces.
 */
export const expectedBytesPerSample = 2.5;

/** What one tier takes of the disk, and what is known of its growth. */
export interface TierDisk {
  readonly sizeBytes: number;
  /** Length of what it holds, ms. */
  readonly heldMs: number;
}

/**
 * Bytes that a day of samples takes: from the present rate and what a stored sample takes; undefined before anything is
 * stored.
 */
export function rawBytesPerDay(samplesPerSecond: number, bytesPerSample: number | undefined): number | undefined {
  return bytesPerSample === undefined ? undefined : samplesPerSecond * 86_400 * bytesPerSample;
}

/**
 * Bytes that a day of buckets takes, as the tier has grown so far. Before it holds a day, a guess from the finer tier:
 * it has `ratio` times as many
 * buckets a day, and a bucket takes about as much; undefined where nothing is known of that either.
 */
export function bucketBytesPerDay(
  { sizeBytes, heldMs }: TierDisk,
  finerBytesPerDay: number | undefined,
  ratio: number,
): number | undefined {
  if (heldMs >= dayMs) return sizeBytes / (heldMs / dayMs);
  return finerBytesPerDay === undefined ? undefined : finerBytesPerDay * ratio;
}

/** Disk of a tier once it holds all the days that it is kept. */
export function forecastBytes(bytesPerDay: number | undefined, keptDays: number): number | undefined {
  return bytesPerDay === undefined ? undefined : bytesPerDay * keptDays;
}
