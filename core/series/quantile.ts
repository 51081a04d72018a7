/**
 * The quantile `p` (0 to 1) by linear interpolation of order statistics: type 7 of Hyndman & Fan,
 * "Sample Quantiles in Statistical Packages", The American Statistician 50(4), 1996.
 * `sorted` is ascending; an empty one gives NaN.
 */
export function quantile(sorted: ArrayLike<number>, p: number): number {
  const n = sorted.length;
  if (n === 0) return Number.NaN;
  const h = (n - 1) * p;
  const low = Math.floor(h);
  const a = sorted[low];
  const b = sorted[Math.min(low + 1, n - 1)];
  return a + (h - low) * (b - a);
}

/**
 * The sample standard deviation (divisor n − 1) in two passes, the second corrected for rounding of the mean
 * (NIST/SEMATECH e-Handbook §1.3.5.6; correction term of Chan, Golub & LeVeque 1983). Fewer than two values give 0,
 * none NaN.
 */
export function deviation(values: ArrayLike<number>): number {
  const n = values.length;
  if (n === 0) return Number.NaN;
  if (n === 1) return 0;
  let sum = 0;
  for (let i = 0; i < n; i++) sum += values[i];
  const mean = sum / n;
  let squares = 0;
  let rest = 0;
  for (let i = 0; i < n; i++) {
    const d = values[i] - mean;
    squares += d * d;
    rest += d;
  }
  return Math.sqrt((squares - (rest * rest) / n) / (n - 1));
}
