import type { Column } from "../../core/series/batch.ts";
import { firstAtOrAfter } from "../../core/series/merge-columns.ts";

/** The samples of one series, ascending in time; the arrays grow by doubling. */
export class Growing {
  #timeMs = new Float64Array(8);
  #value = new Float64Array(8);
  #length = 0;

  /** Takes a sample at any time; one at a time that is there already replaces it. */
  put(timeMs: number, values: Float64Array, from: number): void {
    const n = this.#length;
    let at = n;
    if (n > 0 && timeMs <= (this.#timeMs[n - 1] as number)) at = firstAtOrAfter(this.#timeMs.subarray(0, n), timeMs);
    if (at === n || this.#timeMs[at] !== timeMs) {
      if (n === this.#timeMs.length) {
        this.#timeMs = doubled(this.#timeMs);
        this.#value = doubled(this.#value);
      }
      this.#timeMs.copyWithin(at + 1, at, n);
      this.#value.copyWithin(at + 1, at, n);
      this.#timeMs[at] = timeMs;
      this.#length++;
    }
    this.#value.set(values.subarray(from, from + 1), at); // as bytes: a NaN keeps its payload
  }

  remove(timeMs: number): void {
    const at = firstAtOrAfter(this.#timeMs.subarray(0, this.#length), timeMs);
    if (at === this.#length || this.#timeMs[at] !== timeMs) return;
    this.#timeMs.copyWithin(at, at + 1, this.#length);
    this.#value.copyWithin(at, at + 1, this.#length);
    this.#length--;
  }

  /** A view, valid until the next change. */
  get column(): Column {
    return { timeMs: this.#timeMs.subarray(0, this.#length), value: this.#value.subarray(0, this.#length) };
  }

  get sizeBytes(): number {
    return this.#timeMs.byteLength * 2;
  }
}

function doubled(array: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> {
  const larger = new Float64Array(array.length * 2);
  larger.set(array);
  return larger;
}
