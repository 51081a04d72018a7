import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import { Agent, request } from "undici";
import type { Leader } from "../db/serving-rows.ts";
import { handedOn } from "../http/from-beside.ts";
import type { Unnumbered } from "../relay/there/relay-spool.ts";
import { pinnedToKey } from "../transport/key-pin.ts";

/** So much waits at most while no server leads; then the oldest goes. */
const mostBytes = 268_435_456;
const mostTogetherBytes = 4_194_304;
const retryMs = 500;
/** A server that ends waits so long for what it gathered last to be stored. */
const lastMs = 500;
const connectMs = 3000;
const answerMs = 60_000;

/** What is answered so would be answered so again. */
const refused = new Set([400, 413, 415, 422]);

class RefusedError extends Error {
  override name = "RefusedError";
}

export const recordsPath = "/beside/records";

interface WaitingParts {
  /** The server that leads; undefined where none does. */
  readonly leader: () => Promise<Leader | undefined>;
  /** Below which path all servers are served; "" where there is none. */
  readonly basePath: string;
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
  #agent: { readonly pin: string | null; readonly agent: Agent } | undefined;
  /** As a relay's spool has it: nothing fails in memory. */
  readonly failure = null;

  constructor(parts: WaitingParts) {
    this.#parts = parts;
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
    await this.#agent?.agent.destroy();
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
    const leader = await this.#parts.leader();
    if (!leader) throw new Error("no server leads just now");
    const answer = await request(`${new URL(leader.address).origin}${this.#parts.basePath}/api${recordsPath}`, {
      method: "POST",
      dispatcher: this.#agentOf(leader),
      headers: { "content-type": "application/x-ndjson", [handedOn.pass]: leader.pass, [handedOn.own]: "yes" },
      body,
      signal: AbortSignal.any([this.#ended.signal, AbortSignal.timeout(answerMs)]),
    });
    const text = await answer.body.text();
    if (answer.statusCode === 204) return;
    const words = `The server that leads answers ${answer.statusCode}: ${text}`;
    throw refused.has(answer.statusCode) ? new RefusedError(words) : new Error(words);
  }

  #agentOf({ pin }: Leader): Agent {
    if (this.#agent?.pin !== pin) {
      void this.#agent?.agent.destroy();
      const connect = pin === null ? { timeout: connectMs } : pinnedToKey(pin, connectMs);
      this.#agent = { pin, agent: new Agent({ connect, connections: 1 }) };
    }
    return (this.#agent as { readonly agent: Agent }).agent;
  }
}
