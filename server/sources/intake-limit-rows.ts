import Joi from "joi";
import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { Database } from "../db/pool.ts";

export const defaultLimits: IntakeLimits = {
  bodyBytes: 33_554_432,
  lineBytes: 65_536,
  tags: 40,
  seriesPerSource: 50_000,
  newSeriesPerMinute: 20_000,
};

export const limitsSchema = Joi.object<IntakeLimits>({
  bodyBytes: Joi.number().integer().min(65_536).max(1_073_741_824).required(),
  lineBytes: Joi.number().integer().min(1024).max(1_048_576).required(),
  tags: Joi.number().integer().min(1).max(200).required(),
  seriesPerSource: Joi.number().integer().min(10).max(1_000_000).required(),
  newSeriesPerMinute: Joi.number().integer().min(10).max(1_000_000).required(),
});

export async function readLimits(database: Database): Promise<IntakeLimits> {
  const { rows } = await database.query<{ value: Partial<IntakeLimits> }>(
    "select value from setting where name = 'intake_limits'",
  );
  return { ...defaultLimits, ...rows[0]?.value };
}

export async function writeLimits(database: Database, limits: IntakeLimits): Promise<void> {
  await database.query(
    "insert into setting (name, value) values ('intake_limits', $1::jsonb) on conflict (name) do update set value = excluded.value",
    [JSON.stringify(limits)],
  );
}
