import type { Database } from "../db/pool.ts";
import { slotMs, slotOf, slotStart } from "./slots.ts";

/** Samples by minute number (ms / 60,000). */
export type PerMinute = ReadonlyMap<number, number>;

/** Samples stored per minute in `[fromMs, toMs)`, with those in memory; minutes with none are absent. */
export async function samplesPerMinute(
  database: Database,
  [fromMs, toMs]: readonly [number, number],
  inMemory: PerMinute,
): Promise<PerMinute> {
  const { rows } = await database.query<{ slot: number; per_minute: number[] }>(
    "select slot, per_minute from gathered where slot > $1::int and slot < $2::int",
    [Math.floor(fromMs / slotMs) - 1, Math.ceil(toMs / slotMs)],
  );
  const minutes = new Map<number, number>();
  for (const { slot, per_minute } of rows) {
    for (const [i, n] of per_minute.entries()) if (n > 0) minutes.set(slotStart(slot) / 60_000 + i, n);
  }
  for (const [minute, n] of inMemory) minutes.set(minute, Math.max(n, minutes.get(minute) ?? 0));
  return minutes;
}

/** The same by slots of two hours, for windows of months: their minutes would be half a million. */
export async function samplesPerSlot(
  database: Database,
  [fromMs, toMs]: readonly [number, number],
  inMemory: PerMinute,
): Promise<ReadonlyMap<number, number>> {
  const { rows } = await database.query<{ slot: number; samples: number }>(
    `select slot, (select sum(n)::float8 from unnest(per_minute) as n) as samples
     from gathered
     where slot >= $1::int and slot < $2::int`,
    [Math.floor(fromMs / slotMs), Math.ceil(toMs / slotMs)],
  );
  const slots = new Map(rows.map(({ slot, samples }) => [slot, samples]));
  const newest = new Map<number, number>();
  for (const [minute, n] of inMemory)
    newest.set(slotOf(minute * 60_000), (newest.get(slotOf(minute * 60_000)) ?? 0) + n);
  for (const [slot, n] of newest) slots.set(slot, Math.max(n, slots.get(slot) ?? 0));
  return slots;
}
