import type { Batch, Column } from "../../core/series/batch.ts";
import { cutColumn, firstAtOrAfter, mergeColumns } from "../../core/series/merge-columns.ts";
import { slotMs, slotOf } from "./slots.ts";

/** The samples of one series and slot, ascending in time; the arrays grow by doubling. */
class Growing {
  #timeMs = new Float64Array(16);
  #value = new Float64Array(16);
  #length = 0;

  /** Takes a sample at any time; one at a time that is there already replaces it. */
  put(timeMs: number, value: number): void {
    const n = this.#length;
    let at = n;
    if (n > 0 && timeMs <= (this.#timeMs[n - 1] as number)) at = firstAtOrAfter(this.#timeMs.subarray(0, n), timeMs);
    if (at < n && this.#timeMs[at] === timeMs) {
      this.#value[at] = value;
      return;
    }
    if (n === this.#timeMs.length) {
      this.#timeMs = doubled(this.#timeMs);
      this.#value = doubled(this.#value);
    }
    if (at < n) {
      this.#timeMs.copyWithin(at + 1, at, n);
      this.#value.copyWithin(at + 1, at, n);
    }
    this.#timeMs[at] = timeMs;
    this.#value[at] = value;
    this.#length++;
  }

  get column(): Column {
    return { timeMs: this.#timeMs.subarray(0, this.#length), value: this.#value.subarray(0, this.#length) };
  }
}

function doubled(array: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> {
  const larger = new Float64Array(array.length * 2);
  larger.set(array);
  return larger;
}

/** The newest samples in memory, by slot and series. It holds everything from `completeFromMs` on, and late samples of earlier slots until they are compacted. */
export class Head {
  readonly #slots = new Map<number, Map<number, Growing>>();
  readonly #perMinute = new Map<number, number>();
  readonly #lastTimeMs = new Map<number, number>();
  #completeFromMs: number;

  constructor(completeFromMs: number) {
    this.#completeFromMs = completeFromMs;
  }

  get completeFromMs(): number {
    return this.#completeFromMs;
  }

  /** The slots held, ascending. */
  get slots(): readonly number[] {
    return [...this.#slots.keys()].sort((a, b) => a - b);
  }

  put(batch: Batch): void {
    for (let i = 0; i < batch.length; i++) {
      const timeMs = batch.timeMs[i] as number;
      const id = batch.series[i] as number;
      const slot = slotOf(timeMs);
      let bySeries = this.#slots.get(slot);
      if (!bySeries) this.#slots.set(slot, (bySeries = new Map()));
      let growing = bySeries.get(id);
      if (!growing) bySeries.set(id, (growing = new Growing()));
      growing.put(timeMs, batch.value[i] as number);
      const minute = Math.floor(timeMs / 60_000);
      this.#perMinute.set(minute, (this.#perMinute.get(minute) ?? 0) + 1);
      if (!(timeMs <= (this.#lastTimeMs.get(id) ?? Number.NEGATIVE_INFINITY))) this.#lastTimeMs.set(id, timeMs);
    }
  }

  /** A copy of what is held of a series in `[fromMs, toMs)`. */
  read(id: number, fromMs: number, toMs: number): Column {
    let column: Column = { timeMs: new Float64Array(0), value: new Float64Array(0) };
    for (const slot of this.slots) {
      if (slot + slotMs <= fromMs || slot >= toMs) continue;
      const held = this.#slots.get(slot)?.get(id);
      if (held) column = mergeColumns(column, cutColumn(held.column, fromMs, toMs));
    }
    return { timeMs: column.timeMs.slice(), value: column.value.slice() };
  }

  /** Time of the newest sample of a series since the start, if any came. */
  lastTimeMs(id: number): number | undefined {
    return this.#lastTimeMs.get(id);
  }

  /** Samples taken per minute number (ms / 60,000) in the slots held. */
  get perMinute(): ReadonlyMap<number, number> {
    return this.#perMinute;
  }

  /** Forgets a slot that has been compacted. */
  drop(slot: number): void {
    this.#slots.delete(slot);
    for (let minute = slot / 60_000; minute < (slot + slotMs) / 60_000; minute++) this.#perMinute.delete(minute);
    this.#completeFromMs = Math.max(this.#completeFromMs, slot + slotMs);
  }
}
