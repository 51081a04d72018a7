import type { CounterKind, Tags } from "../../core/counters/counter.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { Database } from "../db/pool.ts";

export interface Series {
  readonly id: number;
  readonly counter: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
}

export type NewSeries = Omit<Series, "id">;

/** All series, by key and by counter. The database has them; this is its copy for answering without asking. */
export class SeriesRegistry {
  readonly #database: Database;
  readonly #byKey = new Map<string, Series>();
  readonly #byCounter = new Map<string, Series[]>();
  #all: Series[] = [];
  #generation = 0;

  private constructor(database: Database) {
    this.#database = database;
  }

  static async open(database: Database): Promise<SeriesRegistry> {
    const registry = new SeriesRegistry(database);
    const { rows } = await database.query<Series>("select id, counter, tags, unit, kind from series order by id");
    for (const row of rows) registry.#add(row);
    return registry;
  }

  /** Changes whenever series are forgotten: who keeps ids must ask for them again. */
  get generation(): number {
    return this.#generation;
  }

  get size(): number {
    return this.#all.length;
  }

  /** The ids of series, in their order; those that are new get one. */
  async resolve(wanted: readonly NewSeries[]): Promise<Uint32Array> {
    const keys = wanted.map((one) => seriesKey(one.counter, one.tags));
    const missing = new Map<string, NewSeries>();
    keys.forEach((key, i) => {
      if (!this.#byKey.has(key)) missing.set(key, wanted[i] as NewSeries);
    });
    if (missing.size > 0) await this.#insert(missing);
    return Uint32Array.from(keys, (key) => (this.#byKey.get(key) as Series).id);
  }

  /** The ids of series that are known already; 0 for others. */
  known(wanted: readonly NewSeries[]): Uint32Array {
    return Uint32Array.from(wanted, (one) => this.#byKey.get(seriesKey(one.counter, one.tags))?.id ?? 0);
  }

  ofCounter(counter: string): readonly Series[] {
    return this.#byCounter.get(counter) ?? [];
  }

  all(): readonly Series[] {
    return this.#all;
  }

  /** Forgets series of which nothing is stored any more. One that comes back gets a new id. */
  async remove(ids: readonly number[]): Promise<void> {
    if (ids.length === 0) return;
    this.#generation++;
    await this.#database.query("delete from series where id = any($1::int[])", [ids]);
    const gone = new Set(ids);
    this.#all = this.#all.filter(({ id }) => !gone.has(id));
    for (const [key, { id }] of this.#byKey) if (gone.has(id)) this.#byKey.delete(key);
    for (const [counter, list] of this.#byCounter) {
      const left = list.filter(({ id }) => !gone.has(id));
      if (left.length > 0) this.#byCounter.set(counter, left);
      else this.#byCounter.delete(counter);
    }
  }

  async #insert(missing: ReadonlyMap<string, NewSeries>): Promise<void> {
    const list = [...missing.values()];
    const columns = [[...missing.keys()], list.map((s) => s.counter), list.map((s) => JSON.stringify(s.tags)), list.map((s) => s.unit), list.map((s) => s.kind)];
    const { rows } = await this.#database.query<{ id: number; key: string }>(
      `insert into series (key, counter, tags, unit, kind)
       select * from unnest($1::text[], $2::text[], $3::jsonb[], $4::text[], $5::text[])
       on conflict (key) do nothing
       returning id, key`,
      columns,
    );
    for (const { id, key } of rows) {
      const { counter, tags, unit, kind } = missing.get(key) as NewSeries;
      this.#add({ id, counter, tags, unit, kind });
    }
    // Those that somebody else has made meanwhile.
    const others = [...missing.keys()].filter((key) => !this.#byKey.has(key));
    if (others.length === 0) return;
    const known = await this.#database.query<Series>("select id, counter, tags, unit, kind from series where key = any($1::text[])", [others]);
    for (const row of known.rows) this.#add(row);
  }

  #add(series: Series): void {
    const key = seriesKey(series.counter, series.tags);
    if (this.#byKey.has(key)) return;
    this.#byKey.set(key, series);
    this.#all.push(series);
    const list = this.#byCounter.get(series.counter);
    if (list) list.push(series);
    else this.#byCounter.set(series.counter, [series]);
  }
}
