/** What is open, closed from the newest to the oldest; each is waited for. */
export class DisposalStack {
  readonly #closes: (() => unknown)[] = [];

  /** Keeps what is to be closed, and gives it back. */
  use<Part extends { close(): unknown }>(part: Part): Part {
    this.#closes.push(() => part.close());
    return part;
  }

  /** Closes all, also after one that could not be closed; throws what the first of those threw. */
  async close(): Promise<void> {
    const failures: unknown[] = [];
    for (let close = this.#closes.pop(); close; close = this.#closes.pop()) {
      try {
        await close();
      } catch (error) {
        failures.push(error);
      }
    }
    if (failures.length > 0) throw failures[0];
  }
}
