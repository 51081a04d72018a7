/** Bounds of what is taken in. */
export interface IntakeLimits {
  readonly bodyBytes: number;
  readonly lineBytes: number;
  readonly tags: number;
  readonly seriesPerSource: number;
  readonly newSeriesPerMinute: number;
}
