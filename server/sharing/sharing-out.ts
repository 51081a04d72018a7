import type { Logger } from "pino";
import { type AskingServer, type SharedSource, shareOut } from "../../core/sources/share-out.ts";
import type { Source } from "../../core/sources/source.ts";
import type { Database } from "../db/pool.ts";
import { isLoopback } from "../http/loopback.ts";
import { toldHaste } from "../sources/haste.ts";
import type { SourceRun } from "../sources/source-run.ts";
import type { Sources } from "../sources/sources.ts";
import { askBackLeases, changeLease, giveLeases, type Lease, listAskers, listLeases } from "./lease-rows.ts";
import { placeOnNetwork } from "./place.ts";

const lookEveryMs = 1000;
/** A source that another server did not reach is not given to it again for so long. */
const outOfReachMs = 3_600_000;

interface SharingParts {
  readonly database: Database;
  readonly sources: Sources;
  readonly log: Logger;
}

/** How a source was to be asked when that was told last. */
interface Told {
  readonly run: SourceRun | undefined;
  readonly haste: string;
}

/**
 * The part of the server that leads which shares out what is asked among it and the servers that stand beside it, by
 * leases in the database. A source is given away once it is asked here no more, and asked here again once no lease of it
 * holds.
 */
export class SharingOut {
  readonly #parts: SharingParts;
  readonly #place = placeOnNetwork();
  readonly #told = new Map<number, Told>();
  /** Until when a server is known not to reach a source, ms of the monotonic clock, by both. */
  readonly #outOfReach = new Map<string, number>();
  readonly #forget: () => void;
  #timer: NodeJS.Timeout | undefined;
  #looking: Promise<void> | undefined;
  #closed = false;

  constructor(parts: SharingParts) {
    this.#parts = parts;
    this.#forget = parts.sources.onChange(() => this.#lookSoon(0));
  }

  start(): void {
    this.#lookSoon(0);
  }

  async close(): Promise<void> {
    this.#closed = true;
    this.#forget();
    clearTimeout(this.#timer);
    await this.#looking;
  }

  #lookSoon(afterMs: number): void {
    clearTimeout(this.#timer);
    if (this.#closed) return;
    this.#timer = setTimeout(() => {
      // What changes while it looks is seen at its next look.
      if (this.#looking) return;
      this.#looking = this.#look()
        .catch((error) => this.#parts.log.info({ err: error }, "sources could not be shared out; it is tried again"))
        .finally(() => {
          this.#looking = undefined;
          this.#lookSoon(lookEveryMs);
        });
    }, afterMs);
  }

  async #look(): Promise<void> {
    const { database, sources } = this.#parts;
    const leases = await listLeases(database);
    const held = new Map(leases.map(({ id, server }) => [id, server]));
    const lent = new Set(sources.lent);
    for (const id of lent) if (!held.has(id)) await this.#takeBack(id);
    for (const id of held.keys()) if (!lent.has(id)) await sources.lend(id);
    await this.#tellChanges(held);
    this.#noteOutOfReach(leases);
    const plan = shareOut({
      sources: sources.all().flatMap(({ source }) => sharedSource(source) ?? []),
      leases: held,
      servers: await listAskers(database, this.#place),
      isOutOfReach: (id, server) => (this.#outOfReach.get(`${id} ${server}`) ?? 0) > performance.now(),
    });
    const askBack = plan.askBack.filter((id) => !leases.some((lease) => lease.id === id && lease.askedBack));
    if (askBack.length > 0) await askBackLeases(database, askBack);
    if (plan.give.length > 0) await this.#give(plan.give);
  }

  async #give(given: readonly { readonly id: number; readonly server: AskingServer["server"] }[]): Promise<void> {
    const { database, sources } = this.#parts;
    await Promise.all(given.map(({ id }) => sources.lend(id)));
    for (const { id } of given) this.#told.set(id, this.#toTell(id));
    await giveLeases(
      database,
      given.map(({ id, server }) => ({ id, server, haste: this.#hasteOf(id) })),
    );
  }

  async #takeBack(id: number): Promise<void> {
    this.#told.delete(id);
    await this.#parts.sources.takeBack(id);
  }

  /** Tells holders of what is to be asked otherwise than they were told. */
  async #tellChanges(held: ReadonlyMap<number, string>): Promise<void> {
    const { database } = this.#parts;
    for (const id of held.keys()) {
      const now = this.#toTell(id);
      const told = this.#told.get(id);
      if (told && told.run === now.run && told.haste === now.haste) continue;
      await changeLease(database, { id, haste: this.#hasteOf(id) });
      this.#told.set(id, now);
    }
  }

  #toTell(id: number): Told {
    return { run: this.#parts.sources.find(id), haste: JSON.stringify(this.#hasteOf(id)) };
  }

  #hasteOf(id: number) {
    const run = this.#parts.sources.find(id);
    return run ? toldHaste(run.source, this.#parts.sources.hasteOf(id)) : null;
  }

  /** What fails where another server asks it may be reached from here: it is asked back, and not given there again soon. */
  #noteOutOfReach(leases: readonly Lease[]): void {
    const now = performance.now();
    for (const [key, untilMs] of this.#outOfReach) if (untilMs <= now) this.#outOfReach.delete(key);
    for (const { id, server } of leases)
      if (this.#parts.sources.find(id)?.isFailing) this.#outOfReach.set(`${id} ${server}`, now + outOfReachMs);
  }
}

/** How a source may be shared; undefined where only the server that leads can ask it: what is sent, or read of itself. */
function sharedSource({ id, kind, address, device, askedFrom, pause }: Source): SharedSource | undefined {
  if (askedFrom || pause || kind === "this-machine" || kind === "flow") return undefined;
  const host = address?.host ?? (device && "host" in device ? device.host : undefined);
  return host === undefined ? undefined : { id, isHereOnly: isLoopback(host) };
}
