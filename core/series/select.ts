/**
 * The median of the first `count` numbers of an array, which it reorders: the middle one, or the mean of the two in the
 * middle; NaN of none. Hoare's selection
 * (Communications of the ACM 4(7), 1961), which takes linear time on average where sorting takes more.
 */
export function medianOf(values: Float64Array, count: number): number {
  if (count === 0) return Number.NaN;
  const middle = count >> 1;
  const upper = select(values, count, middle);
  if (count % 2 === 1) return upper;
  let lower = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < middle; i++) if (values[i] > lower) lower = values[i];
  return (lower + upper) / 2;
}

/** The `k`-th smallest, from 0; what is smaller stands before it afterwards. */
function select(values: Float64Array, count: number, k: number): number {
  let low = 0;
  let high = count - 1;
  while (low < high) {
    const pivot = values[(low + high) >> 1];
    let i = low;
    let j = high;
    while (i <= j) {
      while (values[i] < pivot) i++;
      while (values[j] > pivot) j--;
      if (i > j) break;
      const v = values[i];
      values[i++] = values[j];
      values[j--] = v;
    }
    if (k <= j) high = j;
    else if (k >= i) low = i;
    else break;
  }
  return values[k];
}
