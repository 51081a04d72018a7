/** What is open, closed from the newest to the oldest; each is waited for. */
export class DisposalStack {
  readonly #closes: (() => unknown)[] = [];

  /** Keeps what is to be closed, and gives it back. */
  use<Part extends { close(): unknown }>(part: Part): Part {
    this.#closes.push(() => part.close());
    return part;
  }

  async close(): Promise<void> {
    for (let close = this.#closes.pop(); close; close = this.#closes.pop()) await close();
  }
}
