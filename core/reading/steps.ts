import { deviation, quantile } from "../series/quantile.ts";
import type { OfEvery } from "../series/of-every.ts";

export const quantiles: Partial<Record<OfEvery, number>> = { p50: 0.5, p90: 0.9, p95: 0.95, p99: 0.99 };

/** Values of one series on a grid; NaN is a gap. */
export type Values = Float64Array<ArrayBuffer>;

/** Gathers what falls into each step. Values arrive in ascending time; those that are no finite number must not. */
export class Steps {
  readonly ofEvery: OfEvery;
  /**
   * What is kept of each step; NaN where nothing came. For "mean" the sum of what held, times for how long, until
   * `finish`.
   */
  readonly kept: Values;
  /** For "mean": how many ms of each step are known. */
  readonly weight: Values;
  /** For "mean", after `finish`: the mean over all steps, weighted by for how long each is known; NaN where none is. */
  meanOfAll = Number.NaN;
  readonly #lists: number[][] | undefined;

  constructor(count: number, ofEvery: OfEvery) {
    this.ofEvery = ofEvery;
    this.kept = new Float64Array(count).fill(Number.NaN);
    this.weight = new Float64Array(ofEvery === "mean" ? count : 0);
    this.#lists =
      quantiles[ofEvery] !== undefined || ofEvery === "deviation" ? Array.from({ length: count }, () => []) : undefined;
  }

  /** Takes one value; for means and sums that which holds for `weight` ms. */
  add(step: number, value: number, weight: number): void {
    const kept = this.kept;
    const before = kept[step];
    const none = Number.isNaN(before);
    switch (this.ofEvery) {
      case "mean":
        kept[step] = none ? value * weight : before + value * weight;
        this.weight[step] += weight;
        return;
      case "sum":
        kept[step] = none ? value * weight : before + value * weight;
        return;
      case "count":
        kept[step] = none ? 1 : before + 1;
        return;
      case "min":
        if (none || value < before) kept[step] = value;
        return;
      case "max":
        if (none || value > before) kept[step] = value;
        return;
      case "first":
        if (none) kept[step] = value;
        return;
      case "last":
        kept[step] = value;
        return;
      default:
        (this.#lists as number[][])[step]?.push(value);
    }
  }

  /** Adds a sum that is known already: to a mean with its weight, to a sum or a count as it is. */
  addSum(step: number, sum: number, weight: number): void {
    const before = this.kept[step];
    this.kept[step] = Number.isNaN(before) ? sum : before + sum;
    if (this.ofEvery === "mean") this.weight[step] += weight;
  }

  finish(): Values {
    const kept = this.kept;
    if (this.ofEvery === "mean") {
      const { weight } = this;
      let sum = 0;
      let known = 0;
      for (let i = 0; i < kept.length; i++) {
        const v = kept[i];
        if (Number.isNaN(v)) continue;
        sum += v;
        known += weight[i];
        kept[i] = v / weight[i];
      }
      this.meanOfAll = sum / known;
    } else if (this.#lists) {
      const p = quantiles[this.ofEvery];
      this.#lists.forEach((list, i) => {
        kept[i] =
          p === undefined
            ? deviation(list)
            : quantile(
                list.sort((a, b) => a - b),
                p,
              );
      });
    }
    return kept;
  }
}
