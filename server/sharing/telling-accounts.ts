import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { PushAnswer } from "../../core/api/sources.ts";
import { type LeaderClient, RefusedError } from "./leader-client.ts";
import { type Account, type Accounts, accountsPath, type Wishes } from "./account.ts";

const tellEveryMs = 250;
/** What is wished of collectors is asked for as often, also where none has sent just now. */
const wishesEveryMs = 1000;
/** A collector that has not sent for so long is not asked about. */
const collectorGoneMs = 300_000;
const answerMs = 10_000;
/** A server that ends waits so long for what it has stored last to be heard of. */
const lastMs = 500;

type Told = Pick<PushAnswer, "gather" | "measure">;

/** Tells the server that leads what was stored here of what sources sent, and hears what it wishes of collectors. */
export class TellingAccounts {
  readonly #client: LeaderClient;
  readonly #log: Logger;
  /** The newest of each source that is not told of yet. */
  #waiting = new Map<number, Account>();
  readonly #collectors = new Map<number, number>();
  #wishes = new Map<number, Told>();
  #wishesMs = Number.NEGATIVE_INFINITY;
  #pass: string | undefined;
  readonly #anew: () => void;
  readonly #ended = new AbortController();
  readonly #timer: NodeJS.Timeout;
  #telling: Promise<void> | undefined;

  /** `anew` is called when another server leads than before, which has been told nothing. */
  constructor(client: LeaderClient, log: Logger, anew: () => void) {
    this.#client = client;
    this.#log = log;
    this.#anew = anew;
    this.#timer = setInterval(() => this.#next(), tellEveryMs);
    this.#timer.unref();
  }

  add(account: Account, isCollector: boolean): void {
    this.#waiting.set(account.source, after(this.#waiting.get(account.source), account));
    if (isCollector) this.#collectors.set(account.source, account.atMs);
  }

  /** What the server that leads has said last that a collector is to be told. */
  wishOf(source: number): Told {
    const wish = this.#wishes.get(source);
    if (!wish?.gather) return wish ?? {};
    const forSeconds = Math.ceil(wish.gather.forSeconds - (performance.now() - this.#wishesMs) / 1000);
    if (forSeconds > 0) return { ...wish, gather: { ...wish.gather, forSeconds } };
    const { gather: _, ...rest } = wish;
    return rest;
  }

  async close(): Promise<void> {
    clearInterval(this.#timer);
    this.#next();
    await Promise.race([this.#telling, delay(lastMs, undefined, { ref: false })]);
    this.#ended.abort();
    await this.#client.close();
  }

  #next(): void {
    const wantsWishes = this.#collectors.size > 0 && performance.now() - this.#wishesMs > wishesEveryMs;
    if (this.#telling || (this.#waiting.size === 0 && !wantsWishes)) return;
    this.#telling = this.#tell().finally(() => {
      this.#telling = undefined;
    });
  }

  async #tell(): Promise<void> {
    const now = Date.now();
    for (const [source, atMs] of this.#collectors) if (now - atMs > collectorGoneMs) this.#collectors.delete(source);
    const told = this.#waiting;
    this.#waiting = new Map();
    const body: Accounts = { accounts: [...told.values()], collectors: [...this.#collectors.keys()] };
    try {
      const { pass, text } = await this.#client.post(accountsPath, JSON.stringify(body), {
        type: "application/json",
        signal: AbortSignal.any([this.#ended.signal, AbortSignal.timeout(answerMs)]),
      });
      this.#wishes = new Map((JSON.parse(text) as Wishes).wishes.map((one) => [one.source, one.told]));
      this.#wishesMs = performance.now();
      if (this.#pass !== undefined && this.#pass !== pass) this.#anew();
      this.#pass = pass;
    } catch (error) {
      const isRefused = error instanceof RefusedError; // it would be again; what comes next is told
      this.#log[isRefused ? "warn" : "info"]({ err: error }, "the server that leads was not told what is stored here");
      if (isRefused) return;
      // Told with the next: what has come meanwhile is newer.
      for (const newer of this.#waiting.values()) told.set(newer.source, after(told.get(newer.source), newer));
      this.#waiting = told;
    }
  }
}

/** The newer of a source's accounts, with what only the one before it tells. */
const after = (before: Account | undefined, newer: Account): Account =>
  before ? { ...newer, help: [...before.help, ...newer.help], raw: newer.raw ?? before.raw } : newer;
