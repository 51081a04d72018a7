import type { Database } from "../db/pool.ts";

/** Keeps them where there are none yet. */
export async function writePushKeys(database: Database, sealed: Buffer): Promise<void> {
  await database.query(
    "insert into setting (name, value) values ('push keys', jsonb_build_object('sealed', $1::text)) on conflict (name) do nothing",
    [sealed.toString("base64")],
  );
}

export async function readPushKeys(database: Database): Promise<Buffer> {
  const { rows } = await database.query<{ sealed: string }>(
    "select value->>'sealed' as sealed from setting where name = 'push keys'",
  );
  return Buffer.from((rows[0] as { sealed: string }).sealed, "base64");
}
