import type { Falls } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { growthBetween, increases } from "../series/increase.ts";
import type { Rollup, TotalRollup } from "../series/rollup.ts";
import type { As } from "./document.ts";
import { PiecedLine } from "./pieced-line.ts";
import { type Grid, stepAt, stepStart } from "./step.ts";
import type { Steps } from "./steps.ts";
import { pairSkipped, pairSpans, type TimesOnGrid } from "./times-on-grid.ts";

/**
 * Growth is spread evenly over the time between its two readings. Rates leave silences out; increases do not, for what
 * was counted meanwhile did
 * happen: the increases of steps add up to the growth of the window, whatever the steps.
 */
export class GrowthLine extends PiecedLine {
  readonly #isRate: boolean;
  readonly #falls: Falls;
  #lastMs = Number.NaN;
  #lastValue = Number.NaN;
  #lastReach = 0;
  #fastestPerMs = 0;

  constructor(steps: Steps, grid: Grid, as: As, clipFromMs: number, clipToMs: number, falls: Falls) {
    super(steps, grid, clipFromMs, clipToMs);
    this.#isRate = as === "rate";
    this.#falls = falls;
  }

  addSamples(times: TimesOnGrid, column: Column): void {
    const { timeMs, value } = column;
    const grown = increases(column, this.#falls);
    if (typeof this.#falls === "number")
      for (let i = 0; i < grown.length; i++)
        this.#fastestPerMs = Math.max(this.#fastestPerMs, grown[i] / (timeMs[i + 1] - timeMs[i]) || 0);
    this.#join(timeMs[0], value[0], times.reach);
    if (this.#isRate) this.#addRates(times, grown);
    else for (let i = 1; i < timeMs.length; i++) this.#addIncrease(timeMs[i - 1], timeMs[i], grown[i - 1]);
    for (const v of value) if (v - v !== 0 && !Number.isNaN(v)) this.infinite++;
    this.#stand(timeMs[timeMs.length - 1], value[value.length - 1], times.reach);
  }

  addBuckets(rollup: Rollup, reaches: Float64Array): void {
    if (rollup.kind === "total") this.#addTotals(rollup, reaches);
  }

  end(): void {}

  #addTotals(rollup: TotalRollup, reaches: Float64Array): void {
    const { startMs, firstMs, lastMs, first, last, grown, gapMs, gapGrown, slowest, fastest, infinite } = rollup;
    const ofExtremes = this.steps.ofEvery === "min" ? slowest : fastest;
    for (let i = 0; i < startMs.length; i++) {
      const from = firstMs[i];
      const to = lastMs[i];
      if (typeof this.#falls === "number" && fastest.length > 0)
        this.#fastestPerMs = Math.max(this.#fastestPerMs, fastest[i] / 1000 || 0);
      this.#join(from, first[i], reaches[i]);
      this.infinite += infinite.length > 0 ? infinite[i] : 0;
      const step = stepAt(this.grid, from);
      if (to > from && step >= 0 && step < this.grid.count) {
        const covered = to - from - gapMs[i];
        if (!this.#isRate) this.#addIncrease(from, to, grown[i]);
        else if (this.steps.ofEvery === "mean") {
          if (covered > 0) this.steps.addSum(step, (grown[i] - gapGrown[i]) * 1000, covered);
        } else if (!Number.isNaN(ofExtremes[i])) this.steps.add(step, ofExtremes[i], covered);
        if (
          this.withExtremes &&
          to > this.clipFromMs &&
          from < this.clipToMs &&
          slowest.length > 0 &&
          !Number.isNaN(slowest[i])
        )
          this.see(slowest[i], fastest[i]);
      }
      this.#stand(to, last[i], reaches[i]);
    }
  }

  #stand(atMs: number, value: number, reachMs: number): void {
    this.#lastMs = atMs;
    this.#lastValue = value;
    this.#lastReach = reachMs;
  }

  /** What grew from the end of the piece before to the beginning of this one. */
  #join(atMs: number, value: number, reachMs: number): void {
    const elapsed = atMs - this.#lastMs;
    if (!(elapsed > 0)) return;
    const grown = growthBetween(this.#lastValue, value, this.#falls, elapsed, this.#fastestPerMs);
    if (Number.isNaN(grown)) return;
    if (!this.#isRate) this.#addIncrease(this.#lastMs, atMs, grown);
    else if (elapsed <= Math.max(reachMs, this.#lastReach)) this.#addRate(this.#lastMs, atMs, (grown * 1000) / elapsed);
  }

  #addRate(fromMs: number, toMs: number, perSecond: number): void {
    this.spread(fromMs, toMs, (step, ms) => this.steps.add(step, perSecond, ms));
    if (this.withExtremes && toMs > this.clipFromMs && fromMs < this.clipToMs) this.see(perSecond, perSecond);
  }

  #addIncrease(fromMs: number, toMs: number, grown: number): void {
    if (Number.isNaN(grown) || toMs <= this.clipFromMs || fromMs >= this.clipToMs) return;
    if (this.steps.ofEvery !== "sum") {
      const step = stepAt(this.grid, toMs);
      if (step >= 0 && step < this.grid.count) this.steps.add(step, grown, 1);
      return;
    }
    const perMs = grown / (toMs - fromMs);
    this.spread(Math.max(fromMs, this.clipFromMs), Math.min(toMs, this.clipToMs), (step, ms) =>
      this.steps.addSum(step, ms === toMs - fromMs ? grown : perMs * ms, 0),
    );
  }

  #addRates(times: TimesOnGrid, grown: Float64Array): void {
    const { timeMs, pairs } = times;
    const { kept, weight } = this.steps;
    const isMean = this.steps.ofEvery === "mean";
    if (this.withExtremes) this.#seeRates(times, grown);
    for (let i = 1; i < pairs.length; i++) {
      const pair = pairs[i];
      const step = grown[i - 1];
      if (pair === pairSkipped || Number.isNaN(step)) continue;
      const from = timeMs[i - 1];
      const to = timeMs[i];
      if (pair === pairSpans) this.#addAcross(from, to, (step * 1000) / (to - from));
      else if (isMean) {
        const w = weight[pair];
        kept[pair] = w === 0 ? step * 1000 : kept[pair] + step * 1000;
        weight[pair] = w + to - from;
      } else this.steps.add(pair, (step * 1000) / (to - from), to - from);
    }
  }

  /**
   * As `spread`, in a loop of its own: where samples are as far apart as steps are long, every stretch lies across two.
   */
  #addAcross(fromMs: number, toMs: number, perSecond: number): void {
    const { grid, steps } = this;
    const from = Math.max(fromMs, grid.fromMs);
    for (let k = stepAt(grid, from); k < grid.count; k++) {
      const start = stepStart(grid, k);
      if (start >= toMs) break;
      const ms = Math.min(toMs, stepStart(grid, k + 1)) - Math.max(from, start);
      if (ms > 0) steps.add(k, perSecond, ms);
    }
  }

  #seeRates({ timeMs, pairs }: TimesOnGrid, grown: Float64Array): void {
    for (let i = 1; i < pairs.length; i++) {
      const step = grown[i - 1];
      const from = timeMs[i - 1];
      const to = timeMs[i];
      if (pairs[i] === pairSkipped || Number.isNaN(step) || to <= this.clipFromMs || from >= this.clipToMs) continue;
      this.see((step * 1000) / (to - from), (step * 1000) / (to - from));
    }
  }
}
