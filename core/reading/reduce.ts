import type { Column } from "../series/batch.ts";
import { increases } from "../series/increase.ts";
import { reachMs } from "../series/interval.ts";
import { deviation, quantile } from "../series/quantile.ts";
import type { As, OfEvery } from "./document.ts";
import type { Grid } from "./step.ts";

const quantiles: Partial<Record<OfEvery, number>> = { p50: 0.5, p90: 0.9, p95: 0.95, p99: 0.99 };

/** Values of one series on a grid; NaN is a gap. */
export type Values = Float64Array;

/** Brings one series onto the grid: `as` says what is read from the samples, `ofEvery` what is kept of each step. */
export function reduceSeries(column: Column, grid: Grid, as: As, ofEvery: OfEvery): Values {
  if (as === "value") return reduceLevels(column, grid, ofEvery);
  return as === "rate" ? reduceRates(column, grid, ofEvery) : reduceIncreases(column, grid, ofEvery);
}

/** Samples fall into the step that holds their time; a step between two samples that belong together holds the earlier one's value. */
function reduceLevels(column: Column, grid: Grid, ofEvery: OfEvery): Values {
  const { timeMs, value } = column;
  const steps = new Steps(grid.count, ofEvery);
  const reach = reachMs(timeMs);
  for (let i = 0; i < timeMs.length; i++) {
    const time = timeMs[i] as number;
    const v = value[i] as number;
    if (Number.isNaN(v)) continue;
    const step = Math.floor((time - grid.fromMs) / grid.stepMs);
    if (step >= 0 && step < grid.count) steps.add(step, v, 1);
    const next = timeMs[i + 1];
    if (next === undefined || next - time > reach || ofEvery === "count" || ofEvery === "sum") continue;
    const until = Math.min(grid.count, Math.floor((next - grid.fromMs) / grid.stepMs));
    for (let held = Math.max(0, step + 1); held < until; held++) steps.add(held, v, 1);
  }
  return steps.finish();
}

/** An increase is spread evenly over the time between its two samples; no rate is taken over a gap. The mean is weighted by time. */
function reduceRates(column: Column, grid: Grid, ofEvery: OfEvery): Values {
  const { timeMs } = column;
  const steps = new Steps(grid.count, ofEvery);
  const reach = reachMs(timeMs);
  const grown = increases(column);
  for (let i = 0; i < grown.length; i++) {
    const from = timeMs[i] as number;
    const to = timeMs[i + 1] as number;
    if (to - from > reach || Number.isNaN(grown[i] as number)) continue;
    const perSecond = ((grown[i] as number) * 1000) / (to - from);
    const first = Math.max(0, Math.floor((from - grid.fromMs) / grid.stepMs));
    for (let step = first; step < grid.count; step++) {
      const start = grid.fromMs + step * grid.stepMs;
      if (start >= to) break;
      const overlap = Math.min(to, start + grid.stepMs) - Math.max(from, start);
      if (overlap > 0) steps.add(step, perSecond, overlap);
    }
  }
  return steps.finish();
}

/** An increase counts whole in the step that holds its later sample, gaps included: what was counted meanwhile did happen. */
function reduceIncreases(column: Column, grid: Grid, ofEvery: OfEvery): Values {
  const steps = new Steps(grid.count, ofEvery);
  const grown = increases(column);
  for (let i = 0; i < grown.length; i++) {
    const step = Math.floor(((column.timeMs[i + 1] as number) - grid.fromMs) / grid.stepMs);
    if (step >= 0 && step < grid.count && !Number.isNaN(grown[i] as number)) steps.add(step, grown[i] as number, 1);
  }
  return steps.finish();
}

/** Gathers what falls into each step. Values arrive in ascending time. */
class Steps {
  readonly #ofEvery: OfEvery;
  readonly #kept: Float64Array;
  readonly #weight: Float64Array;
  readonly #lists: number[][] | undefined;

  constructor(count: number, ofEvery: OfEvery) {
    this.#ofEvery = ofEvery;
    this.#kept = new Float64Array(count).fill(Number.NaN);
    this.#weight = new Float64Array(count);
    this.#lists = quantiles[ofEvery] !== undefined || ofEvery === "deviation" ? Array.from({ length: count }, () => []) : undefined;
  }

  add(step: number, value: number, weight: number): void {
    const kept = this.#kept;
    const before = kept[step] as number;
    const none = Number.isNaN(before);
    switch (this.#ofEvery) {
      case "mean":
        kept[step] = none ? value * weight : before + value * weight;
        (this.#weight[step] as number) += weight;
        return;
      case "sum":
        kept[step] = none ? value : before + value;
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

  finish(): Values {
    const kept = this.#kept;
    if (this.#ofEvery === "mean") {
      for (let i = 0; i < kept.length; i++) kept[i] = (kept[i] as number) / (this.#weight[i] as number);
    } else if (this.#lists) {
      const p = quantiles[this.#ofEvery];
      this.#lists.forEach((list, i) => {
        kept[i] = p === undefined ? deviation(list) : quantile(list.sort((a, b) => a - b), p);
      });
    }
    return kept;
  }
}
