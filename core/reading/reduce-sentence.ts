import type { Column } from "../series/batch.ts";
import { fiveMinutesMs, rollUp } from "../series/rollup.ts";
import { LineCombiner } from "./combine.ts";
import { asOf, ofEveryOf, type SentencePlan } from "./plan.ts";
import { type SeriesParts, SeriesReducer } from "./reduce.ts";
import type { Values } from "./steps.ts";

/** Works out a sentence's lines from its series, given one after the other, so that not all of them need be in memory. */
export class SentenceReducer {
  readonly #plan: SentencePlan;
  readonly #reducer: SeriesReducer;
  readonly #lines: LineCombiner;
  readonly #sharing: Int32Array;
  readonly #lows: Values[] = [];
  readonly #highs: Values[] = [];

  constructor(plan: SentencePlan) {
    this.#plan = plan;
    this.#reducer = new SeriesReducer(plan.grid);
    this.#lines = new LineCombiner(plan.combine, plan.lineCount, plan.grid.count);
    this.#sharing = new Int32Array(plan.lineCount);
    for (const line of plan.lineOf) (this.#sharing[line] as number)++;
  }

  /** `index` is the place of the series in the sentence. */
  add(index: number, parts: SeriesParts): void {
    const { totals, lineOf } = this.#plan;
    const isTotal = totals[index] === 1;
    const as = asOf(this.#plan.as, isTotal);
    const ofEvery = ofEveryOf(this.#plan.ofEvery, as);
    const read: SeriesParts = this.#plan.overBuckets ? { rollups: [], rawFromMs: Number.NEGATIVE_INFINITY, raw: bucketMeans(parts, isTotal, this.#plan) } : parts;
    const line = lineOf[index] as number;
    if (this.#plan.extremes) {
      this.#lows[line] = this.#reducer.reduce(parts, as, "min");
      this.#highs[line] = this.#reducer.reduce(parts, as, "max");
    }
    const plain = this.#plan.overBuckets ? undefined : this.#reducer.plainTimes(parts, as, ofEvery);
    if (plain) this.#lines.addSamples(line, plain, parts.raw.value, this.#sharing[line] === 1);
    else this.#lines.add(line, this.#reducer.reduce(read, this.#plan.overBuckets ? "value" : as, ofEvery), this.#sharing[line] === 1);
  }

  /** The lines; where extremes are wanted, then all their lows, then all their highs. */
  finish(): readonly Values[] {
    const lines = this.#lines.finish();
    if (!this.#plan.extremes) return lines;
    const filled = (some: readonly Values[]) => lines.map((_, line) => some[line] ?? new Float64Array(0));
    return [...lines, ...filled(this.#lows), ...filled(this.#highs)];
  }
}

/** The means of a series' buckets of 5 min, as if they were its samples. */
function bucketMeans({ rollups, rawFromMs, raw }: SeriesParts, isTotal: boolean, { toMs }: SentencePlan): Column {
  const kind = isTotal ? "total" : "level";
  const parts = rollups.map(({ rollup }) => rollup);
  if (raw.timeMs.length > 0) {
    const from = Math.floor(Math.max(rawFromMs, raw.timeMs[0] as number) / fiveMinutesMs) * fiveMinutesMs;
    parts.push(rollUp(raw, kind, fiveMinutesMs, from, Math.ceil(toMs / fiveMinutesMs) * fiveMinutesMs));
  }
  const times: number[] = [];
  const values: number[] = [];
  for (const part of parts) {
    for (let i = 0; i < part.startMs.length; i++) {
      const value = part.kind === "level" ? (part.sum[i] as number) / (part.count[i] as number) : ((part.grown[i] as number) * 1000) / (part.coveredMs[i] as number);
      if (!Number.isFinite(value)) continue;
      times.push(part.startMs[i] as number);
      values.push(value);
    }
  }
  return { timeMs: Float64Array.from(times), value: Float64Array.from(values) };
}
