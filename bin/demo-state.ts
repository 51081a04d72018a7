import type { Database } from "../server/db/pool.ts";
import { pastSeconds } from "./demo-past.ts";

/** How far the sample world's past has been written. */
export interface WorldState {
  /** When somebody looked first, seconds since 1970. */
  readonly began: number;
  /** The past is written up to here. */
  readonly doneSeconds: number;
  readonly isWhole: boolean;
  /** Its rules, their incidents and its recordings have been made: once, as a person may remove them. */
  readonly hasHistory?: boolean;
}

export async function readWorldState(database: Database, nowMs: number): Promise<WorldState> {
  const { rows } = await database.query<{ value: WorldState }>("select value from setting where name = 'sample_world'");
  if (rows[0]) return rows[0].value;
  const began = Math.floor(nowMs / 1000);
  const state = { began, doneSeconds: began - pastSeconds, isWhole: false };
  await writeWorldState(database, state);
  return state;
}

export async function writeWorldState(database: Database, state: WorldState): Promise<void> {
  await database.query(
    "insert into setting (name, value) values ('sample_world', $1::jsonb) on conflict (name) do update set value = excluded.value",
    [JSON.stringify(state)],
  );
}
