import type { Database } from "../db/pool.ts";

export interface AlertingSettings {
  /** By which links in messages begin; empty: by which the server listens. */
  readonly address: string;
  /** Called every minute, so that something outside notices when it is not; empty: none. */
  readonly heartbeatUrl: string;
}

const usual: AlertingSettings = { address: "", heartbeatUrl: "" };

export async function readAlertingSettings(database: Database): Promise<AlertingSettings> {
  const { rows } = await database.query<{ value: Partial<AlertingSettings> }>("select value from setting where name = 'alerting'");
  return { ...usual, ...rows[0]?.value };
}

export async function writeAlertingSettings(database: Database, settings: AlertingSettings): Promise<void> {
  await database.query("insert into setting (name, value) values ('alerting', $1::jsonb) on conflict (name) do update set value = excluded.value", [JSON.stringify(settings)]);
}
