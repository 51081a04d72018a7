/** Columns of pages, one after the other, in arrays that grow. */
export class Growing {
  #which = new Uint32Array(1024);
  #timeMs = new Float64Array(1024);
  #value = new Float64Array(1024);
  #length = 0;

  add({
    which,
    timeMs,
    value,
    length,
  }: {
    readonly which: Uint32Array;
    readonly timeMs: Float64Array;
    readonly value: Float64Array;
    readonly length: number;
  }): void {
    const needed = this.#length + length;
    if (needed > this.#which.length) {
      const size = Math.max(needed, this.#which.length * 2);
      const wider = <T extends Uint32Array | Float64Array>(from: T, to: T): T => {
        to.set(from);
        return to;
      };
      this.#which = wider(this.#which, new Uint32Array(size));
      this.#timeMs = wider(this.#timeMs, new Float64Array(size));
      this.#value = wider(this.#value, new Float64Array(size));
    }
    this.#which.set(which.subarray(0, length), this.#length);
    this.#timeMs.set(timeMs.subarray(0, length), this.#length);
    this.#value.set(value.subarray(0, length), this.#length);
    this.#length = needed;
  }

  /** Copies of what was added, at their size. */
  take(): { readonly which: Uint32Array; readonly timeMs: Float64Array; readonly value: Float64Array } {
    return {
      which: this.#which.slice(0, this.#length),
      timeMs: this.#timeMs.slice(0, this.#length),
      value: this.#value.slice(0, this.#length),
    };
  }
}
