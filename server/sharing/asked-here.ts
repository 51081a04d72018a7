import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { Unnumbered } from "../relay/there/relay-spool.ts";
import { isForTheLeader, type TakenHere } from "./source-here.ts";
import type { SourcesHere } from "./sources-here.ts";
import type { TellingAccounts } from "./telling-accounts.ts";
import type { WaitingRecords } from "./waiting-records.ts";

/** A server that ends waits so long for what it gathered last to be durable. */
const lastMs = 2000;

interface AskedParts {
  readonly sources: SourcesHere;
  readonly accounts: TellingAccounts;
  readonly waiting: WaitingRecords;
  readonly log: Logger;
}

/**
 * Stores what this server, beside the one that leads, asked, in journal segments of its own where nothing is to be
 * decided about it, and tells that one what came of it; all else goes there as it is. Of each source one after the other.
 */
export class AskedHere {
  readonly #parts: AskedParts;
  readonly #chains = new Map<number, Promise<void>>();
  /** Not known to be durable yet. */
  readonly #pending = new Set<Unnumbered>();
  /** As a relay's spool has it: nothing fails in memory. */
  readonly failure = null;

  constructor(parts: AskedParts) {
    this.#parts = parts;
  }

  add(record: Unnumbered): void {
    this.#pending.add(record);
    const before = this.#chains.get(record.source) ?? Promise.resolve();
    const chain: Promise<void> = before
      .then(() => this.#store(record))
      .catch((error) => {
        if (!isForTheLeader(error))
          this.#parts.log.info({ err: error }, "what was asked goes to the server that leads");
        if (this.#pending.has(record)) this.#parts.waiting.add(record);
      })
      .finally(() => {
        this.#pending.delete(record);
        if (this.#chains.get(record.source) === chain) this.#chains.delete(record.source);
      });
    this.#chains.set(record.source, chain);
  }

  /** Waits for a moment until all is durable, or with the server that leads; what is not yet is the answer. */
  async end(): Promise<readonly Unnumbered[]> {
    await Promise.race([Promise.all(this.#chains.values()), delay(lastMs, undefined, { ref: false })]);
    const left = [...this.#pending];
    this.#pending.clear();
    return left;
  }

  async #store(record: Unnumbered): Promise<void> {
    const { sources, accounts, waiting } = this.#parts;
    const taken = await this.#taken(record);
    if (!this.#pending.has(record)) return; // it was handed over meanwhile
    if (!taken) return waiting.add(record);
    const { atMs, tookMs, source } = record;
    const isWhole = sources.isToldWhole(source);
    if (isWhole || (record.kind === "readings" && (record.events.length > 0 || record.raw !== "")))
      return waiting.add({ ...record, stored: taken.account.taken });
    const certificateUntilMs = record.kind === "failed" ? null : record.certificateUntilMs;
    accounts.add({ ...taken.account, source, atMs, tookMs, certificateUntilMs, version: null, raw: null }, false);
  }

  /** Undefined where the server that leads is to take it. */
  async #taken(record: Unnumbered): Promise<TakenHere | undefined> {
    if (record.kind === "failed" || record.isHasty) return undefined;
    const here = await this.#parts.sources.find(record.source);
    if (record.kind === "readings") return await here?.takeReadings(record, record.atMs);
    return await here?.takeText(Buffer.from(record.bytes, "base64"), record.dialect, record.atMs);
  }
}
