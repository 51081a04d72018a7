import { catalogue } from "../../core/counters/catalogue.ts";
import type { CounterKind, Falls, Tags } from "../../core/counters/counter.ts";
import { SharedTags } from "../../core/counters/shared-tags.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { Connection, Database } from "../db/pool.ts";
import { readSeries, type StoredSeries } from "./read-series.ts";

export interface Series {
  readonly id: number;
  readonly counter: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, where that is no restart: as its format says, or the catalogue. */
  readonly falls?: Falls;
  /** The source that told of it first; absent where that is not known. */
  readonly sourceId?: number;
}

export type NewSeries = Omit<Series, "id">;

const insertedAtOnce = 2000;
/** Held while series are inserted. */
const lockNumber = 7373003;
/** Who keeps count of series asks much more often than some are forgotten. */
const removalsRemembered = 20;
const columns = `id, key, counter, tags, unit, kind, falls, source_id as "sourceId"`;

/** All series, by key and by counter. The database has them; this is its copy for answering without asking. */
export class SeriesRegistry {
  readonly #database: Database;
  readonly #shared = new SharedTags();
  readonly #byKey = new Map<string, Series>();
  readonly #byCounter = new Map<string, Series[]>();
  #all: Series[] = [];
  #generation = 0;
  /** Which series were forgotten, by the generation that ended with them. */
  readonly #removed = new Map<number, readonly Series[]>();
  /** How many series each source has. */
  readonly #counts = new Map<number, number>();

  private constructor(database: Database) {
    this.#database = database;
  }

  static async open(database: Database): Promise<SeriesRegistry> {
    const registry = new SeriesRegistry(database);
    await readSeries(database, 0, registry.#shared, (row) => registry.#add(storedSeriesOf(row), row.key));
    return registry;
  }

  /** Reads the series that others have made meanwhile. */
  async follow(): Promise<void> {
    const newest = this.#all.reduce((most, { id }) => Math.max(most, id), 0);
    let isChanged = false;
    await readSeries(this.#database, newest, this.#shared, (row) => {
      if (this.#byKey.has(row.key)) isChanged = true;
      else this.#add(storedSeriesOf(row), row.key);
    });
    if (isChanged) await this.reread();
  }

  /** Reads all series anew: others have changed or forgotten some. */
  async reread(): Promise<void> {
    const rows: StoredSeries[] = [];
    await readSeries(this.#database, 0, this.#shared, (row) => rows.push(row));
    this.#generation++;
    this.#all = [];
    for (const map of [this.#byKey, this.#byCounter, this.#counts]) map.clear();
    for (const row of rows) this.#add(storedSeriesOf(row), row.key);
  }

  /** Changes whenever series are forgotten: who keeps ids must ask for them again. */
  get generation(): number {
    return this.#generation;
  }

  /** The series that were forgotten since a generation; undefined where that is not known any more. */
  removedSince(generation: number): readonly Series[] | undefined {
    const removed: Series[] = [];
    for (let one = generation; one < this.#generation; one++) {
      const some = this.#removed.get(one);
      if (!some) return undefined;
      for (const series of some) removed.push(series);
    }
    return removed;
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
    // Some at a time: others get their turn between.
    for (let from = 0, all = [...missing]; from < all.length; from += insertedAtOnce)
      await this.#insert(new Map(all.slice(from, from + insertedAtOnce)));
    return Uint32Array.from(keys, (key) => (this.#byKey.get(key) as Series).id);
  }

  /** The ids of series that are known already; 0 for others. What their formats say anew of how they fall is kept. */
  known(wanted: readonly NewSeries[]): Uint32Array {
    const told: Series[] = [];
    const ids = Uint32Array.from(wanted, ({ counter, tags, falls }) => {
      const known = this.#byKey.get(seriesKey(counter, tags));
      if (known && falls !== undefined && falls !== known.falls) {
        (known as { falls?: Falls }).falls = falls;
        told.push(known);
      }
      return known?.id ?? 0;
    });
    // Where that cannot be stored just now, the source says it again after the next start.
    if (told.length > 0) storeFalls(this.#database, told).catch(() => {});
    return ids;
  }

  /** How many series a source has. */
  countOf(sourceId: number): number {
    return this.#counts.get(sourceId) ?? 0;
  }

  /** A series as it is known; undefined where it is not. */
  find({ counter, tags }: NewSeries): Series | undefined {
    return this.#byKey.get(seriesKey(counter, tags));
  }

  /** Of which source a series is; undefined where that is not known. */
  ownerOf(series: NewSeries): number | undefined {
    return this.find(series)?.sourceId;
  }

  /** Notes that series are of this source: nobody knows of which they were, or that one is gone. */
  claim(wanted: readonly NewSeries[], sourceId: number): void {
    const claimed: number[] = [];
    for (const { counter, tags } of wanted) {
      const known = this.#byKey.get(seriesKey(counter, tags));
      if (!known || known.sourceId === sourceId) continue;
      this.#count(known.sourceId, -1);
      (known as { sourceId?: number }).sourceId = sourceId;
      this.#count(sourceId, 1);
      claimed.push(known.id);
    }
    // Where that cannot be stored just now, it is claimed again after the next start.
    if (claimed.length > 0)
      this.#database
        .query("update series set source_id = $2::int where id = any($1::int[])", [claimed, sourceId])
        .catch(() => {});
  }

  #count(sourceId: number | undefined, by: number): void {
    if (sourceId !== undefined) this.#counts.set(sourceId, (this.#counts.get(sourceId) ?? 0) + by);
  }

  ofCounter(counter: string): readonly Series[] {
    return this.#byCounter.get(counter) ?? [];
  }

  /** The names of all counters, in the order in which they came. */
  counters(): readonly string[] {
    return [...this.#byCounter.keys()];
  }

  /** Series stand in the order of their numbers, but for a few that two servers made at a time. */
  byId(id: number): Series | undefined {
    const all = this.#all;
    let [low, high] = [0, all.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((all[middle] as Series).id < id) low = middle + 1;
      else high = middle;
    }
    return all[low]?.id === id ? all[low] : all.find((one) => one.id === id);
  }

  all(): readonly Series[] {
    return this.#all;
  }

  /** Forgets series of which nothing is stored any more. One that comes back gets a new id. */
  async remove(ids: readonly number[], database: Database | Connection = this.#database): Promise<void> {
    if (ids.length === 0) return;
    await database.query("delete from series where id = any($1::int[])", [ids]);
    const gone = new Set(ids);
    const counters = new Set<string>();
    for (const { id, sourceId, counter, tags } of this.#all) {
      if (!gone.has(id)) continue;
      this.#count(sourceId, -1);
      this.#byKey.delete(seriesKey(counter, tags));
      counters.add(counter);
    }
    const removed = this.#all.filter(({ id }) => gone.has(id));
    this.#all = this.#all.filter(({ id }) => !gone.has(id));
    this.#removed.set(this.#generation++, removed);
    if (this.#removed.size > removalsRemembered) this.#removed.delete(this.#removed.keys().next().value as number);
    for (const counter of counters) {
      const list = this.ofCounter(counter);
      const left = list.filter(({ id }) => !gone.has(id));
      if (left.length > 0) this.#byCounter.set(counter, left);
      else this.#byCounter.delete(counter);
    }
  }

  /** One at a time: two that make the same series in different orders would wait for each other otherwise. */
  async #insert(missing: ReadonlyMap<string, NewSeries>): Promise<void> {
    const list = [...missing.values()];
    const tags = list.map((s) => JSON.stringify(s.tags));
    const given = [
      [...missing.keys()],
      list.map((s) => s.counter),
      tags,
      list.map((s) => s.unit),
      list.map((s) => s.kind),
      list.map((s) => (s.falls === undefined ? null : String(s.falls))),
      list.map((s) => s.sourceId ?? null),
    ];
    const { rows } = await this.#database.query<{ id: number; key: string }>(
      `insert into series (key, counter, tags, unit, kind, falls, source_id)
       select fresh.* from (select pg_advisory_xact_lock(${lockNumber})) as alone,
         unnest($1::text[], $2::text[], $3::jsonb[], $4::text[], $5::text[], $6::text[], $7::int[]) as fresh
       on conflict (key) do nothing
       returning id, key`,
      given,
    );
    const places = new Map([...missing.keys()].map((key, i) => [key, i]));
    for (const { id, key } of rows) {
      const { counter, unit, kind, falls, sourceId } = missing.get(key) as NewSeries;
      const known = {
        id,
        counter: this.#shared.text(counter),
        tags: this.#shared.tags(tags[places.get(key) as number] as string),
        unit: this.#shared.text(unit),
        kind,
      };
      this.#add(seriesOf(known, sourceId, falls), key);
    }
    // Those that somebody else has made meanwhile.
    const others = [...missing.keys()].filter((key) => !this.#byKey.has(key));
    if (others.length === 0) return;
    const known = await this.#database.query<StoredSeries>(
      `select ${columns} from series where key = any($1::text[])`,
      [others],
    );
    for (const row of known.rows) this.#add(storedSeriesOf(row), row.key);
  }

  #add(series: Series, key: string): void {
    if (this.#byKey.has(key)) return;
    this.#byKey.set(key, series);
    this.#all.push(series);
    this.#count(series.sourceId, 1);
    const list = this.#byCounter.get(series.counter);
    if (list) list.push(series);
    else this.#byCounter.set(series.counter, [series]);
  }
}

async function storeFalls(database: Database, series: readonly Series[]): Promise<void> {
  await database.query(
    "update series set falls = told.falls from unnest($1::int[], $2::text[]) as told (id, falls) where series.id = told.id",
    [series.map(({ id }) => id), series.map(({ falls }) => String(falls))],
  );
}

function storedSeriesOf(stored: StoredSeries): Series {
  return seriesOf(stored, stored.sourceId ?? undefined, fallsOf(stored.counter, stored.falls));
}

/** What the database holds of it; what nobody has said of a series, the catalogue says of its counter. */
export function fallsOf(counter: string, stored: string | null): Falls {
  if (stored === null) return catalogue.get(counter)?.falls ?? "restart";
  return stored === "corrected" || stored === "restart" ? stored : Number(stored);
}

/**
 * Each made by one literal: objects that are spread into others have a shape each, which takes more memory than all
 * that is in them.
 */
function seriesOf(
  { id, counter, tags, unit, kind }: Pick<Series, "id" | "counter" | "tags" | "unit" | "kind">,
  sourceId: number | undefined,
  said: Falls | undefined,
): Series {
  const falls = said ?? fallsOf(counter, null);
  if (falls === "restart")
    return sourceId === undefined ? { id, counter, tags, unit, kind } : { id, counter, tags, unit, kind, sourceId };
  return sourceId === undefined
    ? { id, counter, tags, unit, kind, falls }
    : { id, counter, tags, unit, kind, sourceId, falls };
}
