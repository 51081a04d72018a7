import type { Batch } from "../../core/series/batch.ts";
import type { Database } from "../db/pool.ts";
import type { Pass } from "./journal-fence.ts";
import type { SeriesRegistry } from "./series-registry.ts";
import type { Expected } from "./expected.ts";

const countEveryMs = 60_000;
const rereadEveryMs = 600_000;

/** Keeps the series that are known here as another server, which makes and forgets them, has them in the database. */
export class Following {
  readonly #database: Database;
  readonly #series: SeriesRegistry;
  readonly #expect: (id: number, expected: Expected) => void;
  #newest = 0;
  /** The fence with which series were forgotten last, as it was known here. */
  #forgotten: number | undefined;
  /** Of all sources, as they were noted last. */
  #intervals = "";
  #countedMs = Number.NEGATIVE_INFINITY;
  #rereadMs = performance.now();

  constructor(database: Database, series: SeriesRegistry, expect: (id: number, expected: Expected) => void) {
    this.#database = database;
    this.#series = series;
    this.#expect = expect;
    this.#noteNewest();
  }

  /** Reads the series of a batch that are new. */
  async know({ series, length }: Batch): Promise<void> {
    let newest = 0;
    for (let i = 0; i < length; i++) if ((series[i] as number) > newest) newest = series[i] as number;
    if (newest <= this.#newest) return;
    await this.#series.follow();
    this.#noteNewest();
    await this.#noteExpected(true);
  }

  /**
   * Before anything is written by a new pass: where series were forgotten, reads all anew; the answer says then whether
   * those of a batch are all there.
   */
  async passed({ forgotten }: Pass): Promise<((batch: Batch) => boolean) | undefined> {
    if (forgotten === this.#forgotten) return undefined;
    await this.#series.reread();
    this.#forgotten = forgotten;
    this.#noteNewest();
    const series = this.#series;
    return (batch) => {
      for (let i = 0; i < batch.length; i++) if (!series.byId(batch.series[i] as number)) return false;
      return true;
    };
  }

  /** Looks whether series were forgotten or changed, and how far apart those of each source are meant to come. */
  async look(): Promise<void> {
    await this.#noteExpected(false);
    const now = performance.now();
    if (now - this.#countedMs < countEveryMs) return;
    this.#countedMs = now;
    const { rows } = await this.#database.query<{ count: number }>("select count(*)::int as count from series");
    if (rows[0]?.count !== this.#series.size || now - this.#rereadMs > rereadEveryMs) {
      this.#rereadMs = now;
      await this.#series.reread();
      this.#noteNewest();
      await this.#noteExpected(true);
    }
  }

  /** Of all series where some are new, and else where a source's interval was changed. */
  async #noteExpected(areNew: boolean): Promise<void> {
    const { rows } = await this.#database.query<{ id: number; intervalMs: number }>(
      `select id, interval_ms as "intervalMs" from source order by id`,
    );
    const text = JSON.stringify(rows);
    if (!areNew && text === this.#intervals) return;
    this.#intervals = text;
    const bySource = new Map(rows.map(({ id, intervalMs }) => [id, { intervalMs, lateMs: 0 }]));
    for (const { id, sourceId } of this.#series.all()) {
      const expected = bySource.get(sourceId ?? 0);
      if (expected) this.#expect(id, expected);
    }
  }

  #noteNewest(): void {
    this.#newest = this.#series.all().reduce((most, { id }) => Math.max(most, id), 0);
  }
}
