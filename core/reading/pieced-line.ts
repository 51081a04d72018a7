import { type Grid, gridEnd, stepAt, stepStart } from "./step.ts";
import type { Steps } from "./steps.ts";

/** What levels and totals have in common while one series is brought onto the grid, piece by piece. */
export abstract class PiecedLine {
  withExtremes = false;
  infinite = 0;
  least = Number.NaN;
  most = Number.NaN;
  newest = Number.NaN;
  newestUntilMs = Number.NaN;
  protected readonly steps: Steps;
  protected readonly grid: Grid;
  protected readonly clipFromMs: number;
  protected readonly clipToMs: number;

  constructor(steps: Steps, grid: Grid, clipFromMs: number, clipToMs: number) {
    this.steps = steps;
    this.grid = grid;
    this.clipFromMs = clipFromMs;
    this.clipToMs = clipToMs;
  }

  protected see(least: number, most: number): void {
    if (!(this.least <= least)) this.least = least;
    if (!(this.most >= most)) this.most = most;
  }

  /** Calls `take` for each step that has a part of `[fromMs, toMs)`, with how long that is. */
  protected spread(fromMs: number, toMs: number, take: (step: number, ms: number) => void): void {
    const from = Math.max(fromMs, this.grid.fromMs);
    const to = Math.min(toMs, gridEnd(this.grid));
    for (let k = from < to ? stepAt(this.grid, from) : this.grid.count; k < this.grid.count; k++) {
      const start = stepStart(this.grid, k);
      if (start >= to) break;
      const ms = Math.min(to, stepStart(this.grid, k + 1)) - Math.max(from, start);
      if (ms > 0) take(k, ms);
    }
  }
}
