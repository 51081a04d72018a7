import type { Database } from "../../db/pool.ts";
import type { Reading } from "../../../core/counters/reading.ts";
import { databaseBytes } from "../../costs/cost-rows.ts";
import type { Store } from "../../store/store.ts";

/** The database's size changes slowly and asking walks its files: every so many gatherings. */
const sizeEvery = 60;

/** What the product itself takes and does, as counters of the machine that it runs on. */
export class OwnReadings {
  readonly #store: Store;
  readonly #database: Database;
  readonly #plans: () => Promise<readonly Reading[]>;
  #round = 0;
  #taken = 0;

  /** `plans` are what planning tells; they change slowly and take a while. */
  constructor(store: Store, database: Database, plans: () => Promise<readonly Reading[]> = async () => []) {
    this.#plans = plans;
    this.#store = store;
    this.#database = database;
    store.onCommit(({ length }) => {
      this.#taken += length;
    });
  }

  /** Everything, or nothing where none of it is wanted. */
  async gather(only?: ReadonlySet<string>): Promise<readonly Reading[]> {
    if (only && ![...only].some((counter) => counter.startsWith("nubrel."))) return [];
    const { user, system } = process.cpuUsage();
    const reading = (counter: string, value: number, tags: Reading["tags"] = {}): Reading => ({ counter, tags, value });
    const refused = Object.entries(this.#store.health.refused).map(([reason, n]) =>
      reading("nubrel.samples.refused", n, { reason }),
    );
    const asksSize = only ? only.has("nubrel.database.size") : this.#round++ % sizeEvery === 0;
    // While the database is away there is none: what stands for itself is not worth failing for.
    const plans = asksSize && !only ? await this.#plans().catch(() => []) : [];
    const size = asksSize ? await databaseBytes(this.#database).catch(() => undefined) : undefined;
    return [
      reading("nubrel.cpu.time", (user + system) / 1e6),
      reading("nubrel.memory.usage", process.memoryUsage().rss, { part: "process" }),
      reading("nubrel.memory.usage", this.#store.memory.headBytes, { part: "head" }),
      reading("nubrel.samples.taken", this.#taken),
      reading("nubrel.samples.waiting", this.#store.health.waitingSamples),
      reading("nubrel.series.count", this.#store.series.size),
      ...refused,
      ...plans,
      ...(size === undefined ? [] : [reading("nubrel.database.size", size)]),
    ];
  }
}
