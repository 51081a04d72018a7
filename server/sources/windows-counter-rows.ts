import type { CounterCategory, CounterChoice } from "../../core/formats/windows/counter-choice.ts";
import type { Database } from "../db/pool.ts";

/** What a Windows machine said that it can count, and what a person chose of it; null: the usual. */
export interface WindowsCounters {
  readonly told: readonly CounterCategory[];
  readonly toldAt: Date;
  readonly encoding: string;
  readonly chosen: CounterChoice | null;
}

/** Undefined where the machine has not told anything yet. */
export async function readWindowsCounters(database: Database, sourceId: number): Promise<WindowsCounters | undefined> {
  return (
    await database.query<WindowsCounters>(
      `select told, told_at as "toldAt", encoding, chosen from windows_counters where source_id = $1`,
      [sourceId],
    )
  ).rows[0];
}

/** What was told anew replaces what was told before; what was chosen stays. */
export async function keepToldCounters(
  database: Database,
  sourceId: number,
  told: readonly CounterCategory[],
  encoding: string,
): Promise<void> {
  await database.query(
    "insert into windows_counters (source_id, told, told_at, encoding) values ($1, $2, now(), $3) on conflict (source_id) do update set told = excluded.told, told_at = excluded.told_at, encoding = excluded.encoding",
    [sourceId, JSON.stringify(told), encoding],
  );
}

/** False where the machine has not told what there is to choose from. */
export async function chooseCounters(
  database: Database,
  sourceId: number,
  chosen: CounterChoice | null,
): Promise<boolean> {
  return (
    (
      await database.query("update windows_counters set chosen = $2 where source_id = $1", [
        sourceId,
        chosen === null ? null : JSON.stringify(chosen),
      ])
    ).rowCount === 1
  );
}
