import { viewFrame } from "../../../core/chunk/frame-block.ts";
import type { SentencePlan } from "../../../core/reading/plan.ts";
import { givesOneSample } from "../../../core/reading/reduce.ts";
import type { Values } from "../../../core/reading/steps.ts";
import { type Run, TimesOnGrid } from "../../../core/reading/times-on-grid.ts";
import { type HeadPart, type HeadSnapshot, timesOfPart } from "../head-snapshot.ts";
import { slotMs } from "../slots.ts";

/**
 * Sums of levels straight from the head's plain frames: the lines of a sentence whose every step is one sample of each series, without making columns first.
 * That is the live view of a fleet, and four times as fast. Undefined where anything is less plain than that; then the usual way is taken.
 */
export function sumHead(plan: SentencePlan, snapshot: HeadSnapshot): readonly Values[] | undefined {
  const { grid, combine, tier, overBuckets, totals, lineOf, lineCount } = plan;
  if (plan.extremes || combine !== "sum" || tier !== "raw" || overBuckets || snapshot.strays.length > 0 || !givesOneSample(plan.ofEvery ?? "mean")) return undefined;
  if ((plan.as ?? "value") !== "value" || (plan.as === undefined && totals.some((total) => total === 1))) return undefined;
  if (grid.fromMs % grid.stepMs !== 0 || slotMs % grid.stepMs !== 0) return undefined; // a step could have samples of two slots
  const sums = Array.from({ length: lineCount }, () => new Float64Array(grid.count));
  const covered = sums.map(() => new Uint8Array(grid.count));
  for (const part of snapshot.parts) {
    const { run, timeMs } = new TimesOnGrid(timesOfPart(part), grid, grid.fromMs, Number.POSITIVE_INFINITY);
    if (!run || timeMs.length < 2 || !addPart(part, run, lineOf, sums, covered)) return undefined;
  }
  return sums.map((sum, line) => {
    const has = covered[line] as Uint8Array;
    for (let i = 0; i < sum.length; i++) if (has[i] === 0) sum[i] = Number.NaN;
    return sum;
  });
}

function addPart(part: HeadPart, run: Run, lineOf: Int32Array, sums: readonly Values[], covered: readonly Uint8Array[]): boolean {
  const byLine = new Map<number, number[]>();
  part.wanted.forEach((wanted, k) => {
    const line = lineOf[wanted] as number;
    const list = byLine.get(line);
    if (list) list.push(k);
    else byLine.set(line, [k]);
  });
  let row = 0;
  for (const bytes of part.frames) {
    const { numbers, allNumbers, rows } = viewFrame(bytes);
    if (!numbers || !allNumbers) return false;
    for (const [line, list] of byLine) addLanes(sums[line] as Values, run, row, rows, numbers, list.map((k) => rows + (part.lanes[k] as number) * rows));
    row += rows;
  }
  const { open, openTimeMs } = part;
  for (let i = 0; i < open.length; i++) if (Number.isNaN(open[i])) return false;
  for (const [line, list] of byLine) addLanes(sums[line] as Values, run, row, openTimeMs.length, open, list.map((k) => k * openTimeMs.length));
  for (const line of byLine.keys()) covered[line]?.fill(1, run.step, run.step + run.count);
  return true;
}

/** Adds rows `row..row + rows` of lanes that start at `starts`, where they are in the run. Four lanes in one loop: their sum is loaded and stored once. */
function addLanes(sum: Values, run: Run, row: number, rows: number, numbers: Float64Array, starts: readonly number[]): void {
  const first = Math.max(0, run.from - row);
  const end = Math.min(rows, run.from + run.count - row);
  const into = run.step - run.from + row;
  let k = 0;
  for (; k + 4 <= starts.length; k += 4) {
    const a = starts[k] as number;
    const b = starts[k + 1] as number;
    const c = starts[k + 2] as number;
    const d = starts[k + 3] as number;
    for (let i = first; i < end; i++) sum[into + i] = (sum[into + i] as number) + (((numbers[a + i] as number) + (numbers[b + i] as number)) + ((numbers[c + i] as number) + (numbers[d + i] as number)));
  }
  for (; k < starts.length; k++) {
    const a = starts[k] as number;
    for (let i = first; i < end; i++) sum[into + i] = (sum[into + i] as number) + (numbers[a + i] as number);
  }
}
