import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { Unnumbered } from "../relay/there/relay-spool.ts";
import { LeaderClient, type LeaderClientParts, RefusedError } from "./leader-client.ts";

/** So much waits at most while no server leads; then the oldest goes. */
const mostBytes = 268_435_456;
const mostTogetherBytes = 4_194_304;
const retryMs = 500;
/** A server that ends waits so long for what it gathered last to be stored. */
const lastMs = 500;
const answerMs = 60_000;

export const recordsPath = "/beside/records";

interface WaitingParts extends LeaderClientParts {
  readonly log: Logger;
}

/**
 * What was gathered beside the server that leads and is not stored yet, in memory: it goes to whichever server leads,
 * and again until one says that it is durable. Storing it twice is storing it once, as it has its own times.
 */
export class WaitingRecords {
  readonly #parts: WaitingParts;
  readonly #ended = new AbortController();
  #lines: Buffer[] = [];
  #bytes = 0;
  #next = 1;
  #wake: () => void = () => {};
  #idle: () => void = () => {};
  readonly #sending: Promise<void>;
  readonly #client: LeaderClient;
  /** As a relay's spool has it: nothing fails in memory. */
  readonly failure = null;

  constructor(parts: WaitingParts) {
    this.#parts = parts;
    this.#client = new LeaderClient(parts);
    this.#sending = this.#send();
  }

  add(record: Unnumbered): void {
    const line = Buffer.from(`${JSON.stringify({ seq: this.#next++, ...record })}\n`);
    this.#lines.push(line);
    this.#bytes += line.length;
    while (this.#bytes > mostBytes && this.#lines.length > 1) this.#bytes -= (this.#lines.shift() as Buffer).length;
    this.#wake();
  }

  /** What waits; it is handed over by nobody else. */
  takeAll(): readonly string[] {
    const all = this.#lines.map((line) => line.toString());
    this.#drop(this.#lines);
    return all;
  }

  /** Hands over what still waits, for a moment. */
  async close(): Promise<void> {
    if (this.#lines.length > 0)
      await Promise.race([
        new Promise<void>((resolve) => (this.#idle = resolve)),
        delay(lastMs, undefined, { ref: false }),
      ]);
    this.#ended.abort();
    this.#wake();
    await this.#sending;
    await this.#client.close();
  }

  async #send(): Promise<void> {
    const { signal } = this.#ended;
    while (!signal.aborted) {
      const together = this.#oldest();
      if (together.length === 0) {
        await new Promise<void>((resolve) => (this.#wake = resolve));
        continue;
      }
      try {
        await this.#hand(Buffer.concat(together));
        this.#drop(together);
      } catch (error) {
        if (signal.aborted) return;
        if (error instanceof RefusedError) this.#drop(together);
        this.#parts.log.info({ err: error }, "what was gathered waits for a server that leads");
        await delay(retryMs, undefined, { signal }).catch(() => {});
      }
    }
  }

  /** Some of it may have gone meanwhile for want of room. */
  #drop(lines: readonly Buffer[]): void {
    const gone = new Set(lines);
    this.#lines = this.#lines.filter((line) => !gone.has(line));
    this.#bytes = this.#lines.reduce((sum, { length }) => sum + length, 0);
    if (this.#lines.length === 0) this.#idle();
  }

  #oldest(): readonly Buffer[] {
    let bytes = 0;
    const end = this.#lines.findIndex(({ length }, at) => (bytes += length) > mostTogetherBytes && at > 0);
    return this.#lines.slice(0, end < 0 ? this.#lines.length : end);
  }

  async #hand(body: Buffer): Promise<void> {
    await this.#client.post(recordsPath, body, {
      type: "application/x-ndjson",
      signal: AbortSignal.any([this.#ended.signal, AbortSignal.timeout(answerMs)]),
    });
  }
}
