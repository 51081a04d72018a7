const everyMs = 10_000;
const windowMs = 60_000;

interface Mark {
  readonly atMs: number;
  readonly usedMs: number;
}

/** The share of one processor that this process used over the last minute, worker threads included. */
export class ProcessorShare {
  readonly #marks: Mark[] = [];
  readonly #timer: NodeJS.Timeout;

  constructor() {
    this.#mark();
    this.#timer = setInterval(() => this.#mark(), everyMs).unref();
  }

  share(): number {
    const oldest = this.#marks[0] as Mark;
    const now = this.#now();
    return now.atMs === oldest.atMs ? 0 : (now.usedMs - oldest.usedMs) / (now.atMs - oldest.atMs);
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  #mark(): void {
    this.#marks.push(this.#now());
    while (this.#marks.length > windowMs / everyMs + 1) this.#marks.shift();
  }

  #now(): Mark {
    const { user, system } = process.cpuUsage();
    return { atMs: performance.now(), usedMs: (user + system) / 1000 };
  }
}
