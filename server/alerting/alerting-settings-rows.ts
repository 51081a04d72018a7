import type { AlertingSettings } from "../../core/api/alerting.ts";
import { SealedError, type SecretBox } from "../sources/secret-box.ts";
import type { Database } from "../db/pool.ts";

const defaults: AlertingSettings = { address: "", heartbeatUrl: "" };

/** An address that is called may hold a token: it is kept sealed. Earlier versions kept it in clear. */
export async function readAlertingSettings(database: Database, box: SecretBox): Promise<AlertingSettings> {
  const { rows } = await database.query<{ value: Partial<AlertingSettings> & { readonly sealed?: string } }>(
    "select value from setting where name = 'alerting'",
  );
  const { sealed, ...clear } = rows[0]?.value ?? {};
  try {
    return {
      ...defaults,
      ...clear,
      ...(sealed !== undefined && { heartbeatUrl: box.unseal(Buffer.from(sealed, "base64")) }),
    };
  } catch (error) {
    // sealed with another key: it must be entered again
    if (error instanceof SealedError) return { ...defaults, ...clear };
    throw error;
  }
}

export async function writeAlertingSettings(
  database: Database,
  { heartbeatUrl, ...clear }: AlertingSettings,
  box: SecretBox,
): Promise<void> {
  const settings = { ...clear, ...(heartbeatUrl !== "" && { sealed: box.seal(heartbeatUrl).toString("base64") }) };
  await database.query(
    "insert into setting (name, value) values ('alerting', $1::jsonb) on conflict (name) do update set value = excluded.value",
    [JSON.stringify(settings)],
  );
}
