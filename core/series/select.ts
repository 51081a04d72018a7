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
  for (let i = 0; i < middle; i++) if ((values[i] as number) > lower) lower = values[i] as number;
  return (lower + upper) / 2;
}

/** The `k`-th smallest, from 0; what is smaller stands before it afterwards. */
function select(values: Float64Array, count: number, k: number): number {
  let low = 0;
  let high = count - 1;
  while (low < high) {
    const pivot = values[(low + high) >> 1] as number;
    let i = low;
    let j = high;
    while (i <= j) {
      while ((values[i] as number) < pivot) i++;
      while ((values[j] as number) > pivot) j--;
      if (i > j) break;
      const v = values[i] as number;
      values[i++] = values[j] as number;
      values[j--] = v;
    }
    if (k <= j) high = j;
    else if (k >= i) low = i;
    else break;
  }
  return values[k] as number;
}
