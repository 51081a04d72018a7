import type { Span } from "../time/time-window.ts";

const bands = 3;
/** Units across a strip; it is stretched to its cell. */
export const stripWidth = 200;

/** A line that never comes near 0, and moves by less than a fifth of the whole scale, is a block on it. */
const [blockFrom, blockSpan, leastSpan] = [1 / 8, 1 / 5, 1 / 8];

/** The values at a strip's lower and upper edge. */
export interface StripScale {
  readonly least: number;
  readonly most: number;
}

/**
 * The scale by which a line's shape is seen: from 0 up to `most`, or, where the line would fill its strip as a block,
 * around its own least and highest.
 */
export function stripScale(values: readonly (number | null)[], most: number): StripScale {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const value of values)
    if (value !== null) {
      low = Math.min(low, value);
      high = Math.max(high, value);
    }
  const span = high - low;
  if (low > high || !(low > blockFrom * most) || span > blockSpan * most) return { least: 0, most };
  const shown = Math.max(span * 1.5, leastSpan * most);
  const least = Math.max(0, (low + high) / 2 - shown / 2);
  return { least, most: least + shown };
}

/** One closed path a band; a run of values that reach into it is one piece, and equal ones in a row are one step of that. */
export function bandPaths(
  values: readonly (number | null)[],
  firstMs: number,
  stepMs: number,
  span: Span,
  { least, most }: StripScale,
  height: number,
): readonly string[] {
  const perBand = (most - least) / bands;
  const x = (i: number) =>
    Math.max(0, Math.min(stripWidth, ((firstMs + i * stepMs - span.fromMs) / (span.toMs - span.fromMs)) * stripWidth));
  return Array.from({ length: bands }, (_, band) => {
    let path = "";
    /** The height that is being drawn; where none is, the band is empty here. */
    let drawn = height;
    values.forEach((value, i) => {
      const filled = value === null ? 0 : Math.max(0, Math.min(1, (value - least - band * perBand) / perBand));
      const y = rounded(height * (1 - filled));
      if (y === drawn) return;
      const at = rounded(x(i));
      if (drawn === height) path += `M${at} ${height}V${y}`;
      else path += y === height ? `H${at}V${height}Z` : `H${at}V${y}`;
      drawn = y;
    });
    return drawn === height ? path : `${path}H${rounded(x(values.length))}V${height}Z`;
  });
}

const rounded = (units: number): number => Math.round(units * 10) / 10;
