import type { Logger } from "pino";
import type { RelayedSource } from "../../core/relay/relay-wire.ts";
import type { Database } from "../db/pool.ts";
import type { Leader } from "../db/serving-rows.ts";
import { sentFailure } from "../relay/there/as-sent.ts";
import { RelayGathering } from "../relay/there/relay-gathering.ts";
import { readLimits } from "../sources/intake-limit-rows.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import { findSource, readSecret } from "../sources/source-rows.ts";
import type { Credentials } from "../../core/sources/source.ts";
import { PullError } from "../transport/pull-error.ts";
import { AskedHere } from "./asked-here.ts";
import { type HeldLease, leaseSeconds, renewLeases, returnLeases } from "./lease-rows.ts";
import type { SourcesHere } from "./sources-here.ts";
import type { TellingAccounts } from "./telling-accounts.ts";
import { WaitingRecords } from "./waiting-records.ts";

const renewEveryMs = 1000;
/** Without having renewed its leases for so long it asks no more: another server asks a moment later. */
const fenceMs = (leaseSeconds - 1) * 1000;

interface ShareParts {
  readonly database: Database;
  readonly box: SecretBox;
  /** By which this server is known beside the one that leads. */
  readonly instance: string;
  readonly leader: () => Promise<Leader | undefined>;
  readonly basePath: string;
  readonly log: Logger;
  readonly sources: SourcesHere;
  readonly accounts: TellingAccounts;
}

/** A page goes to the server that leads in one piece, and that of a larger one is asked by that server itself. */
const mostSentBytes = 67_108_864;

/** How a source is asked here, since which turn of its lease. */
interface Known {
  readonly turn: number;
  readonly source: RelayedSource;
}

/**
 * What a server that stands beside the one that leads asks: the sources of which it has a lease, each as the server that
 * leads would. What they say is stored here, or goes to that one.
 */
export class AskingShare {
  readonly #parts: ShareParts;
  readonly #waiting: WaitingRecords;
  readonly #asked: AskedHere;
  readonly #gathering: RelayGathering;
  readonly #known = new Map<number, Known>();
  /** Until when what is gathered counts, ms of the monotonic clock. */
  #heldUntilMs = Number.NEGATIVE_INFINITY;
  #timer: NodeJS.Timeout | undefined;
  #fence: NodeJS.Timeout | undefined;
  #looking: Promise<void> = Promise.resolve();
  #closed = false;

  constructor(parts: ShareParts) {
    this.#parts = parts;
    this.#waiting = new WaitingRecords(parts);
    this.#asked = new AskedHere({ ...parts, waiting: this.#waiting });
    this.#gathering = new RelayGathering({
      spool: this.#asked,
      log: parts.log,
      // A process that stood still finds that others ask its sources by now.
      mayAsk: () => performance.now() < this.#heldUntilMs,
      added: () => {},
    });
  }

  start(): void {
    this.#next();
  }

  /** Asks no more; the answer is what was gathered and is not known to be stored, a record a line. */
  async handOver(): Promise<readonly string[]> {
    await this.#end();
    return this.#waiting.takeAll();
  }

  /** Asks no more, has what was gathered stored, and gives its leases back. */
  async close(): Promise<void> {
    await this.#end();
    await this.#waiting.close();
    await returnLeases(this.#parts.database, this.#parts.instance).catch(() => {});
  }

  async #end(): Promise<void> {
    this.#closed = true;
    clearTimeout(this.#timer);
    await this.#looking;
    clearTimeout(this.#fence);
    await this.#gathering.close();
    for (const record of await this.#asked.end()) this.#waiting.add(record);
  }

  #next(): void {
    if (this.#closed) return;
    this.#timer = setTimeout(() => {
      this.#looking = this.#look()
        .catch((error) => this.#parts.log.info({ err: error }, "the leases of sources could not be renewed"))
        .finally(() => this.#next());
    }, renewEveryMs);
  }

  async #look(): Promise<void> {
    const { database, instance } = this.#parts;
    const begunMs = performance.now();
    const held = await renewLeases(database, instance);
    if (performance.now() - begunMs > fenceMs || this.#closed) return;
    this.#heldUntilMs = begunMs + fenceMs;
    clearTimeout(this.#fence);
    this.#fence = setTimeout(() => void this.#follow([], 0), this.#heldUntilMs - performance.now());
    const asked = held.filter(({ askedBack }) => !askedBack);
    const isAsOne =
      asked.length === this.#known.size && asked.every(({ id, turn }) => this.#known.get(id)?.turn === turn);
    if (!isAsOne || asked.length < held.length) await this.#askThese(asked);
    const back = held.flatMap(({ id, askedBack }) => (askedBack ? [id] : []));
    if (back.length > 0) await returnLeases(database, instance, back);
  }

  async #askThese(leases: readonly HeldLease[]): Promise<void> {
    const { bodyBytes } = await readLimits(this.#parts.database);
    const mostPageBytes = Math.min(bodyBytes, mostSentBytes);
    const wanted = new Set(leases.map(({ id }) => id));
    for (const id of [...this.#known.keys()]) if (!wanted.has(id)) this.#known.delete(id);
    for (const lease of leases) {
      if (this.#known.get(lease.id)?.turn === lease.turn) continue;
      const source = await this.#sourceOf(lease);
      if (source) this.#known.set(lease.id, { turn: lease.turn, source });
      else this.#known.delete(lease.id);
    }
    await this.#follow(
      [...this.#known.values()].map(({ source }) => source),
      mostPageBytes,
    );
  }

  /** Nothing is asked where `sources` is empty, and all is begun anew once leases are held again. */
  async #follow(sources: readonly RelayedSource[], mostPageBytes: number): Promise<void> {
    if (sources.length === 0) this.#known.clear();
    await this.#gathering.follow({ sources, mostPageBytes });
  }

  /** Undefined where it is gone, or its secret cannot be opened: told so, the server that leads asks it back. */
  async #sourceOf({ id, haste }: HeldLease): Promise<RelayedSource | undefined> {
    const { database, box, log } = this.#parts;
    const [source, sealed] = await Promise.all([findSource(database, id), readSecret(database, id)]);
    if (!source) return undefined;
    const { kind, name, intervalMs, address, device, trust } = source;
    try {
      const credentials: Credentials = sealed ? JSON.parse(box.unseal(sealed)) : { kind: "none" };
      return { ...{ id, kind, name, intervalMs, address, device, trust, credentials }, haste };
    } catch (error) {
      log.warn({ err: error, source: name }, "a secret cannot be read, so that this server does not ask this");
      const [words, remedy] = [
        "Its credentials cannot be read by a server that stands beside.",
        "Give all the same key.",
      ];
      const atMs = Date.now();
      const failed = sentFailure(new PullError("wrong credentials", words, remedy), atMs);
      this.#waiting.add({ source: id, atMs, tookMs: 0, ...failed });
      return undefined;
    }
  }
}
