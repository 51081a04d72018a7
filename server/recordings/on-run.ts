import type { EndedBecause, RunPart } from "../../core/recordings/recording.ts";
import type { Batch } from "../../core/series/batch.ts";
import type { RunRow } from "./run-rows.ts";

/** What a clock on the wall and one that nobody sets show, ms. */
export interface Moment {
  readonly wallMs: number;
  readonly monotonicMs: number;
}

/** One run while it is on: how long it has left, what it has taken. */
export class OnRun {
  readonly row: RunRow;
  readonly #isBySchedule: boolean;
  #untilMs: number | null;
  /** The end by the clock that nobody sets, of a run that has a length. */
  #endsAtMonotonicMs: number;
  /** Parts that have ended: the clock was set after each. */
  readonly #ended: RunPart[];
  #partFromMs: number;
  #samples: number;
  /** Of each series that it holds, the interval of the recording that its newest sample lies in. */
  readonly #newest = new Map<number, number>();

  constructor(row: RunRow, now: Moment, samples = row.samples) {
    this.row = row;
    this.#isBySchedule = row.origin === "schedule";
    this.#untilMs = row.untilMs;
    this.#endsAtMonotonicMs =
      row.untilMs === null ? Number.POSITIVE_INFINITY : now.monotonicMs + (row.untilMs - now.wallMs);
    const parts = row.parts;
    this.#ended = parts.slice(0, -1);
    this.#partFromMs = parts.at(-1)?.fromMs ?? row.startedAtMs;
    this.#samples = samples;
  }

  get untilMs(): number | null {
    return this.#untilMs;
  }

  get samples(): number {
    return this.#samples;
  }

  get everyMs(): number {
    return this.row.document.everySeconds * 1000;
  }

  /** Its parts so far. */
  partsUntil(ms: number): readonly RunPart[] {
    return [...this.#ended, { fromMs: this.#partFromMs, toMs: Math.max(ms, this.#partFromMs) }];
  }

  /** Which series it holds. */
  holds(ids: Iterable<number>): void {
    for (const id of ids) if (!this.#newest.has(id)) this.#newest.set(id, Number.NEGATIVE_INFINITY);
  }

  get series(): number {
    return this.#newest.size;
  }

  /** Counts what of a batch belongs to it: one sample of a series in each interval. */
  count({ series, timeMs, length }: Batch): void {
    for (let i = 0; i < length; i++) {
      const id = series[i] as number;
      const newest = this.#newest.get(id);
      if (newest === undefined) continue;
      if ((timeMs[i] as number) < this.#partFromMs) continue;
      const slot = Math.floor((timeMs[i] as number) / this.everyMs);
      if (slot <= newest) continue;
      this.#newest.set(id, slot);
      this.#samples++;
    }
  }

  /** Milliseconds that are left; null of one that only a bound or a person ends. */
  leftMs({ wallMs, monotonicMs }: Moment): number | null {
    if (this.#untilMs === null) return null;
    return this.#isBySchedule ? this.#untilMs - wallMs : this.#endsAtMonotonicMs - monotonicMs;
  }

  /** Why it is to end now; undefined where it goes on. */
  dueBecause(now: Moment, bytes: number): EndedBecause | undefined {
    const { mostSamples, mostBytes } = this.row.document;
    if ((this.leftMs(now) ?? 1) <= 0) return this.#isBySchedule ? "schedule" : "length";
    if (mostSamples !== undefined && this.#samples >= mostSamples) return "samples";
    return mostBytes !== undefined && bytes >= mostBytes ? "bytes" : undefined;
  }

  /** When it is to be said to have ended, by the wall: a run that has a length never later than that. */
  endMs(wallMs: number): number {
    return this.#untilMs === null ? wallMs : Math.min(wallMs, this.#untilMs);
  }

  /** The clock was set by so many ms, and shows `atMs` now: a new part begins. One with a length keeps its length. */
  rebase(atMs: number, byMs: number): void {
    this.#ended.push({ fromMs: this.#partFromMs, toMs: Math.max(atMs - byMs, this.#partFromMs) });
    this.#partFromMs = atMs;
    for (const id of this.#newest.keys()) this.#newest.set(id, Number.NEGATIVE_INFINITY);
    if (!this.#isBySchedule && this.#untilMs !== null) this.#untilMs += byMs;
  }
}
