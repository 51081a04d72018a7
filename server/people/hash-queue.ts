/** Hashes are 64 MiB and some tenths of a second each: so many at once, and so many waiting. */
const atOnce = 2;
const mostWaiting = 30;

/** More ask for a hash than can be served. */
export class TooManyHashes extends Error {
  override name = "TooManyHashes";
}

/**
 * Works out password hashes a few at a time, in the order in which they are asked for: two hundred at once would take
 * the memory of the machine.
 */
export class HashQueue {
  #running = 0;
  readonly #waiting: (() => void)[] = [];

  /** Throws TooManyHashes where too many wait already. */
  async run<T>(work: () => Promise<T>): Promise<T> {
    if (this.#running >= atOnce) {
      if (this.#waiting.length >= mostWaiting) throw new TooManyHashes("Too many sign in at the same moment.");
      await new Promise<void>((turn) => this.#waiting.push(turn));
    }
    this.#running++;
    try {
      return await work();
    } finally {
      this.#running--;
      this.#waiting.shift()?.();
    }
  }
}
