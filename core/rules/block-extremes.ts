/** So many figures in a row have one least and one greatest figure. */
export const blockLength = 64;

/** The place for the extremes of so many figures: two numbers for each whole block. */
export const extremesLength = (count: number): number => 2 * Math.floor(count / blockLength);

/**
 * Fills in the least and the greatest figure of each whole block: `extremes[2 * b]` and `extremes[2 * b + 1]` of block
 * `b`. A block in which a figure is none or infinite has NaN for both, of which no comparison is true: each of its
 * figures is looked at.
 */
export function fillExtremes(gauges: Float64Array, extremes: Float64Array): void {
  for (let at = 0, i = 0; at < extremes.length; at += 2) {
    let least = Number.POSITIVE_INFINITY;
    let greatest = Number.NEGATIVE_INFINITY;
    let sum = 0;
    for (const end = i + blockLength; i < end; i++) {
      const gauge = gauges[i];
      if (gauge < least) least = gauge;
      if (gauge > greatest) greatest = gauge;
      sum += gauge - gauge; // NaN as soon as one figure is none or infinite
    }
    extremes[at] = least + sum;
    extremes[at + 1] = greatest + sum;
  }
}
