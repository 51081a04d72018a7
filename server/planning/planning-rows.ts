import type { PlanningSettings } from "../../core/api/energy.ts";
import type { MonthSendingView } from "../../core/api/month.ts";
import type { Tariff } from "../../core/tariffs/tariff.ts";
import type { Database } from "../db/pool.ts";

/** How the month is sent, and since when it is to anybody. */
export type KeptSending = MonthSendingView & { readonly sinceMs?: number };

const nothingSaid: PlanningSettings = {
  guesses: {},
  feeders: [],
  meters: [],
  speeds: {},
  diskOperations: {},
  fills: [],
};

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

/** How the month is sent; nobody gets it where nothing was said. */
export async function readMonthSending(database: Database): Promise<KeptSending> {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const nobody: KeptSending = { recipients: [], day: 1, at: "07:00", zone, lastSent: null };
  return { ...nobody, ...(await read<Partial<KeptSending>>(database, "month_sending")) };
}

export const writeMonthSending = (database: Database, sending: KeptSending): Promise<void> =>
  write(database, "month_sending", sending);

interface KeptLooks {
  readonly sinceMs: number;
  readonly counters: readonly string[];
}

export const readLookedAt = (database: Database): Promise<KeptLooks | undefined> => read(database, "looked_at");

/** Adds counters to those that are kept; the time since when they are noted stays the earliest. */
export async function addLookedAt(database: Database, looks: KeptLooks): Promise<void> {
  await database.query(
    `insert into setting (name, value) values ('looked_at', $1::jsonb)
     on conflict (name) do update set value = jsonb_build_object(
       'sinceMs', least((setting.value->>'sinceMs')::float8, (excluded.value->>'sinceMs')::float8),
       'counters', (select jsonb_agg(counter order by counter)
                    from (select jsonb_array_elements_text(setting.value->'counters') as counter
                          union select jsonb_array_elements_text(excluded.value->'counters')) as both_of_them))`,
    [JSON.stringify(looks)],
  );
}

/** Counters that dashboards, rules and recordings name. */
export async function namedCounters(database: Database): Promise<readonly string[]> {
  const { rows } = await database.query<{ counter: string }>(
    `select distinct found[1] as counter
     from (select document from dashboard where removed_at is null union all select document from rule
           union all select document from recording where removed_at is null) as all_of_them,
          regexp_matches(document::text, '"counter": "([^"]+)"', 'g') as found`,
  );
  return rows.map(({ counter }) => counter);
}

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
