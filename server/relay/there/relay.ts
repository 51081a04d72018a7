import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { RelayAnswer, RelayOrders, RelayTask } from "../../../core/relay/relay-wire.ts";
import type { DeviceGatherer } from "../../gather/device-gatherer.ts";
import { doTask } from "./do-task.ts";
import type { KeptOrders } from "./kept-orders.ts";
import { RelayGathering } from "./relay-gathering.ts";
import { type RelayLink, RefusedError } from "./relay-link.ts";
import type { RelaySpool } from "./relay-spool.ts";

const firstRetryMs = 1000;
const mostRetryMs = 60_000;
/** What is gathered in one moment goes out together. */
const togetherMs = 250;

interface RelayParts {
  readonly link: RelayLink;
  readonly spool: RelaySpool;
  readonly orders: KeptOrders;
  readonly own: DeviceGatherer;
  readonly version: string;
  readonly log: Logger;
  /** Tells a person at the terminal how the link stands, when that changes. */
  readonly say: (words: string) => void;
}

/**
 * Gathers where its server does not reach, and sends what it gathered with its own times. It goes on gathering by the
 * last orders while the link is away, also after a start of its own.
 */
export class Relay {
  readonly #parts: RelayParts;
  readonly #gathering: RelayGathering;
  readonly #ended = new AbortController();
  #orders: RelayOrders | undefined;
  #answers: RelayAnswer[] = [];
  /** Ends the question for work that is open: there is something to tell. */
  #hurry = new AbortController();
  #wake: () => void = () => {};
  #loops: readonly Promise<void>[] = [];
  #said = "";

  constructor(parts: RelayParts) {
    this.#parts = parts;
    this.#gathering = new RelayGathering({ ...parts, added: () => this.#wake() });
  }

  async start(): Promise<void> {
    this.#orders = this.#parts.orders.read();
    if (this.#orders) await this.#gathering.follow(this.#orders);
    this.#loops = [this.#work(), this.#send()];
  }

  async close(): Promise<void> {
    this.#ended.abort();
    this.#hurry.abort();
    this.#wake();
    await this.#gathering.close();
    await Promise.all(this.#loops);
    await this.#parts.link.close();
  }

  async #work(): Promise<void> {
    const { link, spool, version, orders } = this.#parts;
    await this.#overAndOver(async () => {
      this.#hurry = new AbortController();
      const answers = [...this.#answers];
      const { life, waiting, dropped, failure } = spool;
      const state = { version, life, mark: this.#orders?.mark ?? null, waiting, dropped, failure };
      const signal = AbortSignal.any([this.#hurry.signal, this.#ended.signal]);
      const work = await link.work(state, answers, signal).catch((error) => {
        if (this.#hurry.signal.aborted) return undefined;
        throw error;
      });
      if (!work) return;
      this.#answers = this.#answers.filter((answer) => !answers.includes(answer));
      this.#tell("Its server is reached.");
      if (work.orders) {
        orders.keep(work.orders);
        this.#orders = work.orders;
        await this.#gathering.follow(work.orders);
      }
      for (const task of work.tasks) void this.#do(task);
    });
  }

  async #do(task: RelayTask): Promise<void> {
    this.#answers.push(await doTask(task, this.#orders?.mostPageBytes ?? 0));
    this.#hurry.abort();
  }

  async #send(): Promise<void> {
    const { link, spool } = this.#parts;
    await this.#overAndOver(async () => {
      const part = spool.oldest();
      if (!part) {
        await new Promise<void>((resolve) => {
          this.#wake = resolve;
          if (this.#ended.signal.aborted) resolve();
        });
        await this.#wait(togetherMs);
        return;
      }
      // All of it is stored then, or was told as what nobody can read: sent again it would be no better.
      await link.send(part, spool.life, this.#ended.signal);
      spool.taken(part.last);
    });
  }

  /** Does it again and again until the relay ends; what fails is tried again, later each time up to a minute. */
  async #overAndOver(act: () => Promise<void>): Promise<void> {
    let retryMs = firstRetryMs;
    while (!this.#ended.signal.aborted) {
      try {
        await act();
        retryMs = firstRetryMs;
      } catch (error) {
        if (this.#ended.signal.aborted) return;
        const isRefused = error instanceof RefusedError;
        this.#tell(
          `${isRefused ? "Its server refuses it" : "Its server is not reached"}: ${wordsOf(error)} It goes on gathering and tries again.`,
        );
        await this.#wait(isRefused ? mostRetryMs : retryMs * (0.8 + 0.4 * Math.random()));
        retryMs = Math.min(mostRetryMs, retryMs * 2);
      }
    }
  }

  #wait(ms: number): Promise<void> {
    return delay(ms, undefined, { signal: this.#ended.signal }).catch(() => {});
  }

  #tell(words: string): void {
    if (words === this.#said) return;
    this.#said = words;
    this.#parts.say(words);
  }
}

function wordsOf(error: unknown): string {
  const { message, code } = error as { message?: string; code?: string };
  const words = message || code || "no reason was given";
  return /[.!?]$/.test(words) ? words : `${words}.`;
}
