import type { Retention } from "../../core/api/costs.ts";
import type { Database } from "../db/pool.ts";
import type { Head } from "./head.ts";
import type { Journal } from "./journal.ts";
import { ensurePartition, partitioned, slotsPerDay } from "./partitions.ts";
import { dropExpired, seriesWithoutSamples } from "./retention.ts";
import { seldomSlots } from "./life-pages.ts";
import type { SeriesLives } from "./series-lives.ts";
import type { SeriesRegistry } from "./series-registry.ts";
import { slotMs, slotOf, slotStart } from "./slots.ts";
import type { Executor } from "../work/executor.ts";
import { compactKind, rollUpKind } from "./tasks/task.ts";

/** A slot is compacted this long after its end, so that what is a little late does not reopen it. */
const compactAfterMs = 300_000;
const dayMs = partitioned.rollup_5m.unitMs;
const hoursPeriodMs = partitioned.rollup_1h.unitMs;
const daysPerPeriod = hoursPeriodMs / dayMs;

/** Moves samples on: from the head to chunks, from chunks to rollups, and out when they are older than retention. */
export class Compactor {
  readonly #database: Database;
  readonly #series: SeriesRegistry;
  readonly #head: Head;
  readonly #lives: SeriesLives;
  readonly #journal: Journal;
  readonly #executor: Executor;
  readonly #moved: () => Promise<void>;
  #dueDays: readonly number[] = [];
  #dueHours: readonly number[] = [];
  #lookedForEmptyMs = Number.NEGATIVE_INFINITY;

  /** `moved` is called when samples were moved, before anything is read from their new place alone. */
  constructor(
    parts: {
      database: Database;
      series: SeriesRegistry;
      head: Head;
      lives: SeriesLives;
      journal: Journal;
      executor: Executor;
    },
    moved: () => Promise<void>,
  ) {
    const { database, series, head, lives, journal, executor } = parts;
    this.#lives = lives;
    this.#moved = moved;
    this.#database = database;
    this.#series = series;
    this.#head = head;
    this.#journal = journal;
    this.#executor = executor;
  }

  /** The first day, and the first ten days, whose rollups are missing or stale; infinity where none are. */
  get firstDueDay(): number {
    return this.#dueDays[0] ?? Number.POSITIVE_INFINITY;
  }

  get firstDueHours(): number {
    return this.#dueHours[0] ?? Number.POSITIVE_INFINITY;
  }

  async refreshDue(): Promise<void> {
    const { rows } = await this.#database.query<{ tier: string; period: number }>(
      "select tier, period from rollup_due order by period",
    );
    this.#dueDays = rows.filter(({ tier }) => tier === "5m").map(({ period }) => period);
    this.#dueHours = rows.filter(({ tier }) => tier === "1h").map(({ period }) => period);
  }

  async compact(nowMs: number): Promise<void> {
    const ended = this.#journal.slots
      .filter((slot) => slotStart(slot + 1) + compactAfterMs <= nowMs)
      .sort((a, b) => a - b);
    for (const slot of ended) {
      await ensurePartition(this.#database, "chunk", slot);
      await ensurePartition(this.#database, "chunk_times", slot);
      const { segments, taken } = await this.#journal.endSegments(slot, () => this.#head.takeSlot(slot));
      try {
        const task = { slot, ids: taken.ids, snapshot: taken.snapshot, segments };
        this.#lives.note(await this.#executor.run(compactKind, task), slot, seldomSlots);
      } catch (error) {
        taken.restore();
        throw error;
      } finally {
        await this.refreshDue().catch(() => {});
      }
      this.#journal.removed(slot, segments);
    }
    if (ended.length > 0) await this.#moved();
    const waiting = new Set(this.#journal.slots);
    for (const slot of this.#head.slots)
      if (slot < slotOf(nowMs) - 1 && !waiting.has(slot) && !this.#head.isChanged(slot)) this.#head.drop(slot);
  }

  /**
   * Rolls up the days that have ended and whose next day's first slot is in chunks, then tens of days that are rolled
   * up whole.
   */
  async rollUp(nowMs: number): Promise<void> {
    const waiting = this.#journal.slots;
    const due = this.#dueDays.length + this.#dueHours.length;
    for (const day of this.#dueDays) {
      const next = (day + 1) * slotsPerDay;
      if (
        nowMs < slotStart(next + 1) + compactAfterMs ||
        waiting.some((slot) => slot <= next && slot >= next - slotsPerDay - 1)
      )
        continue;
      await ensurePartition(this.#database, "rollup_5m", day);
      await this.#executor.run(rollUpKind, { tier: "5m", period: day });
    }
    if (due > 0) await this.#moved();
    await this.refreshDue();
    for (const period of this.#dueHours) {
      if (nowMs < (period + 1) * hoursPeriodMs + slotMs + compactAfterMs) continue;
      if (this.#dueDays.some((day) => Math.floor(day / daysPerPeriod) === period)) continue;
      await ensurePartition(this.#database, "rollup_1h", period);
      await this.#executor.run(rollUpKind, { tier: "1h", period });
    }
    if (due > 0) await this.#moved();
    await this.refreshDue();
  }

  /** Drops what is older than retention, and series of which nothing is left. */
  async expire(nowMs: number, retention: Retention): Promise<void> {
    const waitsFromMs = slotStart(Math.min(slotOf(nowMs), ...this.#journal.slots)) - dayMs;
    const dropped = await dropExpired(this.#database, retention, nowMs, waitsFromMs);
    // To look at every series takes some µs each: where nothing went, once a day is enough.
    if (dropped.length === 0 && Math.abs(nowMs - this.#lookedForEmptyMs) < dayMs) return;
    this.#lookedForEmptyMs = nowMs;
    const empty = await seriesWithoutSamples(this.#database);
    const isWithout = () => empty.filter((id) => !this.#head.holds(id));
    if (isWithout().length === 0) return;
    await this.#journal.forgetting(isWithout, async (gone, database) => {
      await this.#series.remove(gone, database);
      this.#head.forget(gone);
    });
  }
}
