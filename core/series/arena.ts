/**
 * Memory for arrays that live for one piece of work: taken again and again instead of anew, which costs more than what
 * is done with it.
 */
export class Arena {
  #numbers = new Float64Array(1 << 15);
  #used = 0;

  /** An array of `length` numbers of any value. */
  take(length: number): Float64Array<ArrayBuffer> {
    if (this.#used + length > this.#numbers.length) {
      // What was taken before keeps the old memory.
      this.#numbers = new Float64Array(Math.max(this.#numbers.length * 2, length));
      this.#used = 0;
    }
    const taken = this.#numbers.subarray(this.#used, this.#used + length);
    this.#used += length;
    return taken;
  }

  /** Ends all arrays that were taken. */
  clear(): void {
    this.#used = 0;
  }
}

/** An arena that is none: every array is new, and lives as long as somebody has it. */
export const newArrays: Pick<Arena, "take"> = { take: (length) => new Float64Array(length) };
