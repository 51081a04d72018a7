import type { Database } from "../db/pool.ts";
import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import { readLimits } from "../sources/intake-limit-rows.ts";
import { findSource } from "../sources/source-rows.ts";
import type { Store } from "../store/store.ts";
import { SourceHere } from "./source-here.ts";

const limitsHoldMs = 5000;
/** The text as received is told to the server that leads as often, for each source. */
const rawEveryMs = 10_000;

interface Kept {
  readonly here: SourceHere;
  /** Its settings and the limits that it was made with. */
  readonly settings: string;
  toldWholeMs: number;
}

/** The sources of which this server, beside the one that leads, stores something, as the database has them just now. */
export class SourcesHere {
  readonly #database: Database;
  readonly #store: Store;
  readonly #kept = new Map<number, Kept>();
  #limits: { readonly limits: IntakeLimits; readonly atMs: number } | undefined;

  constructor(database: Database, store: Store) {
    this.#database = database;
    this.#store = store;
  }

  /** Another server leads: it knows nothing of what was told to the one before. */
  tellAnew(): void {
    for (const { here } of this.#kept.values()) here.tellHelpAgain();
  }

  /** Undefined where there is no such source, or it is paused. */
  async find(id: number): Promise<SourceHere | undefined> {
    const [source, limits] = [await findSource(this.#database, id), await this.#limitsNow()];
    if (!source) this.#kept.delete(id);
    if (!source || source.pause) return undefined;
    const settings = JSON.stringify([source, limits]);
    let kept = this.#kept.get(id);
    if (kept?.settings !== settings) {
      const here = new SourceHere(source, this.#store, limits);
      kept = { here, settings, toldWholeMs: kept?.toldWholeMs ?? Number.NEGATIVE_INFINITY };
      this.#kept.set(id, kept);
    }
    return kept.here;
  }

  /** Whether it is time that the server that leads gets what a source said as a whole, and then not for a while. */
  isToldWhole(id: number): boolean {
    const kept = this.#kept.get(id);
    if (!kept || performance.now() - kept.toldWholeMs < rawEveryMs) return false;
    kept.toldWholeMs = performance.now();
    return true;
  }

  async #limitsNow(): Promise<IntakeLimits> {
    const now = performance.now();
    if (!this.#limits || now - this.#limits.atMs > limitsHoldMs)
      this.#limits = { limits: await readLimits(this.#database), atMs: now };
    return this.#limits.limits;
  }
}
