import type { Tags } from "../../core/counters/counter.ts";
import { extremesLength } from "../../core/rules/block-extremes.ts";
import type { UsualAt } from "../../core/rules/gauges.ts";
import type { RehearsalAnswer } from "../../core/rules/rehearse.ts";
import type { RuleDocument } from "../../core/rules/rule.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { readGauges, readUsual, ruleGrid } from "./read-gauges.ts";
import { type PastLine, rehearsePastKind } from "./rehearse-past.ts";

const dayMs = 86_400_000;
/** Figures of a past that was read once are kept while somebody moves its limits. */
const keptForMs = 120_000;
const mostKept = 4;
/** A rehearsal holds so many figures at most; longer ones are read by a coarser step. */
const mostFigures = 20_000_000;

interface Past {
  readonly key: string;
  readonly from: number;
  readonly to: number;
  readonly stepMs: number;
  readonly firstMs: number;
  readonly unit: string;
  readonly lines: readonly PastLine[];
  readonly notes: readonly string[];
  isFresh: boolean;
  usedMs: number;
}

/**
 * Runs the past through a rule before it is saved: reads its figures once, day by day, and steps through them on a
 * worker thread.
 */
export class Rehearser {
  readonly #store: Store;
  readonly #names: MachineNames;
  readonly #executor: Executor;
  #kept: Past[] = [];

  constructor(store: Store, names: MachineNames, executor: Executor) {
    this.#store = store;
    this.#names = names;
    this.#executor = executor;
  }

  /** `from` and `to` in ms; `progress` is told the share that is done. Throws FigureError, CancelledError. */
  async rehearse(
    rule: RuleDocument,
    from: number,
    to: number,
    zone: string,
    progress: (share: number) => void,
    signal?: AbortSignal,
  ): Promise<RehearsalAnswer> {
    const past = await this.#past(rule, from, to, progress, signal);
    past.usedMs = Date.now();
    const { watch, compare, notice, urgent, mustLastSeconds, staysRaisedSeconds, noData, everySeconds } = rule;
    const task = {
      rule: { watch, compare, notice, urgent, mustLastSeconds, staysRaisedSeconds, noData, everySeconds },
      lines: past.lines,
      isFresh: past.isFresh,
      firstMs: past.firstMs,
      stepMs: past.stepMs,
      from: past.from,
      to: past.to,
      zone,
    };
    const rehearsal = await this.#executor.run(rehearsePastKind, task, signal);
    past.isFresh = false;
    progress(1);
    return { ...rehearsal, from: past.from, to: past.to, stepMs: past.stepMs, unit: past.unit, notes: past.notes };
  }

  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one rehearsal, step by step
  async #past(
    rule: RuleDocument,
    from: number,
    to: number,
    progress: (share: number) => void,
    signal?: AbortSignal,
  ): Promise<Past> {
    const now = Date.now();
    this.#kept = this.#kept.filter(({ usedMs }) => now - usedMs < keptForMs);
    const grid = ruleGrid(this.#store, this.#names, rule, now, Math.min(from, now - 60_000));
    // Its silence limit decides how far back is looked; other limits change nothing of the figures.
    const key = JSON.stringify([rule.reading, rule.watch, grid, from, to]);
    const known = this.#kept.find((one) => one.key === key);
    if (known) return known;
    const notes = new Set<string>();
    let parts = Math.max(1, Math.ceil((to - from) / dayMs));
    let stepMs = grid.stepMs;
    let firstMs: number | undefined;
    let unit = "1";
    const total = () => Math.ceil((to - from) / stepMs);
    const lines = new Map<string, { tags: Tags; gauges: Float64Array; settled: number }>();
    let usual: ReadonlyMap<string, UsualAt> | undefined;
    const readPart = (part: number) => {
      const moments = { fromMs: from, toMs: to, stepMs };
      const usualOfLines = async () => (usual ??= await readUsual(this.#store, this.#names, rule, moments, signal));
      return readGauges(
        this.#store,
        this.#names,
        rule,
        { ...grid, stepMs },
        { afterMs: from + (part * (to - from)) / parts, untilMs: from + ((part + 1) * (to - from)) / parts },
        { usualOfLines, signal },
      );
    };
    // The next one is read while this one is looked at.
    let ahead: ReturnType<typeof readPart> | undefined;
    for (let part = 0; part < parts; part++) {
      const reading = ahead ?? readPart(part);
      ahead = part === 0 || part + 1 === parts ? undefined : readPart(part + 1);
      ahead?.catch(() => {}); // it is heard when it is looked at
      const read = await reading;
      for (const note of read.notes) notes.add(note);
      // What is kept by longer buckets only has longer steps: then all of it is read by those.
      const needed = Math.max(read.stepMs, total() * Math.max(1, read.lines.length) > mostFigures ? stepMs * 2 : 0);
      if (needed > stepMs) {
        stepMs = needed;
        lines.clear();
        firstMs = undefined;
        ahead = undefined;
        part = -1;
        parts = Math.max(1, Math.ceil((to - from) / Math.max(dayMs, stepMs * 100)));
        continue;
      }
      firstMs ??= read.firstMs;
      for (const { key: id, tags, gauges, settled, unit: own } of read.lines) {
        unit = own;
        let line = lines.get(id);
        if (!line)
          lines.set(
            id,
            (line = {
              tags,
              gauges: new Float64Array(new SharedArrayBuffer((total() + 2) * 8)).fill(Number.NaN),
              settled: Number.POSITIVE_INFINITY,
            }),
          );
        const at = Math.round((read.firstMs - firstMs) / stepMs);
        if (settled < gauges.length) line.settled = Math.min(line.settled, at + settled);
        line.gauges.set(gauges.subarray(0, Math.max(0, line.gauges.length - at)), at);
      }
      progress((0.95 * (part + 1)) / parts);
    }
    const past: Past = {
      key,
      from,
      to,
      stepMs,
      firstMs: firstMs ?? from,
      unit,
      lines: [...lines.values()].map(({ tags, gauges, settled }) => {
        const count = Math.min(gauges.length, settled, Math.max(0, Math.floor((to - (firstMs ?? from)) / stepMs) + 1));
        const extremes = new SharedArrayBuffer(extremesLength(count) * Float64Array.BYTES_PER_ELEMENT);
        return { tags, gauges: gauges.buffer as SharedArrayBuffer, extremes, count };
      }),
      isFresh: true,
      notes: [...notes],
      usedMs: now,
    };
    this.#kept = [...this.#kept.slice(-mostKept + 1), past];
    return past;
  }
}
