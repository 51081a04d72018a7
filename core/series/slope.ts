import { quantile } from "./quantile.ts";

/** More points than this are thinned out evenly: the pairs grow with the square. */
const mostPoints = 150;

/**
 * The median of the slopes between all pairs of points, per unit of x: a trend that single outliers do not bend (Theil 1950; Sen, "Estimates
 * of the Regression Coefficient Based on Kendall's Tau", JASA 63, 1968). Pairs with the same x are left out. NaN for fewer than two points.
 */
export function medianSlope(x: ArrayLike<number>, y: ArrayLike<number>): number {
  const every = Math.max(1, Math.ceil(x.length / mostPoints));
  const slopes: number[] = [];
  for (let i = 0; i < x.length; i += every) {
    for (let j = i + every; j < x.length; j += every) {
      const dx = (x[j] as number) - (x[i] as number);
      if (dx !== 0) slopes.push(((y[j] as number) - (y[i] as number)) / dx);
    }
  }
  return quantile(slopes.sort((a, b) => a - b), 0.5);
}
