const places = new Int32Array(64);

/**
 * The median of the numbers of up to 64 sorted lists together, found from a guess: few steps where that is near, linear
 * in how many numbers lie between where it is not; NaN of none.
 */
export function medianOfSorted(lists: readonly Float64Array[], guess: number): number {
  let total = 0;
  let before = 0;
  for (const [j, list] of lists.entries()) {
    total += list.length;
    before += places[j] = below(list, guess);
  }
  if (total === 0) return Number.NaN;
  const upperAt = total >> 1;
  // What lies before the places is never more than what lies behind them: the largest of it is the one looked for.
  for (; before <= upperAt; before++) places[leastNext(lists)]++;
  for (; before > upperAt + 1; before--) places[mostBefore(lists)]--;
  const upper = mostBefore(lists);
  const found = (lists[upper] as Float64Array)[places[upper] - 1];
  if (total % 2 === 1) return found;
  places[upper]--;
  const lower = mostBefore(lists);
  return (found + (lists[lower] as Float64Array)[places[lower] - 1]) / 2;
}

/** How many numbers of a sorted list are less than a value. */
function below(list: Float64Array, value: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The list whose number at its place is the least. */
function leastNext(lists: readonly Float64Array[]): number {
  let found = -1;
  let least = Number.POSITIVE_INFINITY;
  for (let j = 0; j < lists.length; j++) {
    const list = lists[j] as Float64Array;
    if (places[j] < list.length && (found < 0 || list[places[j]] < least)) least = list[places[(found = j)]];
  }
  return found;
}

/** The list whose number before its place is the largest. */
function mostBefore(lists: readonly Float64Array[]): number {
  let found = -1;
  let most = Number.NEGATIVE_INFINITY;
  for (let j = 0; j < lists.length; j++) {
    const at = places[j] - 1;
    if (at >= 0 && (found < 0 || (lists[j] as Float64Array)[at] > most))
      most = (lists[(found = j)] as Float64Array)[at];
  }
  return found;
}
