const pieceSeconds = 15;

/** A total that grows at `rate(second)` since `fromSeconds`, summed piece by piece; asking in ascending time costs only what is new. */
export class RunningTotal {
  readonly #rate: (second: number) => number;
  #piece: number;
  #sum = 0;

  constructor(fromSeconds: number, rate: (second: number) => number) {
    this.#rate = rate;
    this.#piece = Math.floor(fromSeconds / pieceSeconds);
  }

  /** The total at a moment, whole. Questions come in ascending time. */
  at(second: number): number {
    const until = Math.floor(second / pieceSeconds);
    for (; this.#piece < until; this.#piece++) this.#sum += this.#rate(this.#piece * pieceSeconds) * pieceSeconds;
    return Math.floor(this.#sum + this.#rate(until * pieceSeconds) * (second - until * pieceSeconds));
  }
}
