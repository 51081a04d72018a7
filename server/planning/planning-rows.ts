import type { PlanningSettings } from "../../core/api/energy.ts";
import type { Tariff } from "../../core/tariffs/tariff.ts";
import type { Database } from "../db/pool.ts";

const nothingSaid: PlanningSettings = { guesses: {}, feeders: [], speeds: {}, fills: [] };

export async function readTariffs(database: Database): Promise<readonly Tariff[]> {
  return (await read<readonly Tariff[]>(database, "tariffs")) ?? [];
}

export const writeTariffs = (database: Database, tariffs: readonly Tariff[]): Promise<void> =>
  write(database, "tariffs", tariffs);

export async function readPlanningSettings(database: Database): Promise<PlanningSettings> {
  return { ...nothingSaid, ...(await read<Partial<PlanningSettings>>(database, "planning")) };
}

export const writePlanningSettings = (database: Database, settings: PlanningSettings): Promise<void> =>
  write(database, "planning", settings);

async function read<Value>(database: Database, name: string): Promise<Value | undefined> {
  const { rows } = await database.query<{ value: Value }>("select value from setting where name = $1", [name]);
  return rows[0]?.value;
}

async function write(database: Database, name: string, value: unknown): Promise<void> {
  await database.query(
    "insert into setting (name, value) values ($1::text, $2::jsonb) on conflict (name) do update set value = excluded.value",
    [name, JSON.stringify(value)],
  );
}
