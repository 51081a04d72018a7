/** What a text, a message or a device said at once, as columns; rows `0..length-1` are valid. */
export interface Page {
  /** Index into the reader's `series`. */
  readonly which: Uint32Array;
  /** Milliseconds since 1970, NaN where no time was said. */
  readonly timeMs: Float64Array;
  readonly value: Float64Array;
  readonly length: number;
  /** Samples that were found, also those that are not gathered. */
  readonly found: number;
  /** What was read and is not gathered, by reason, counted. */
  readonly leftOut: ReadonlyMap<string, number>;
}
