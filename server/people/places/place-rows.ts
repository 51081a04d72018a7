import type { PlaceView } from "../../../core/api/places.ts";
import type { Database } from "../../db/pool.ts";

/** A browser, in words, from a network. */
export interface Place {
  readonly device: string;
  readonly network: string;
}

/** Notes where somebody signed in. Answers whether they never had there, having signed in elsewhere before. */
export async function notePlace(database: Database, accountId: number, place: Place): Promise<boolean> {
  const { rows } = await database.query<{ isNew: boolean }>(
    `with others as (select count(*) as n from sign_in_place where account_id = $1::int)
     insert into sign_in_place (account_id, device, network, known_at)
     select $1::int, $2::text, $3::text, case when n = 0 then now() end from others
     on conflict do nothing
     returning known_at is null as "isNew"`,
    [accountId, place.device, place.network],
  );
  return rows[0]?.isNew ?? false;
}

/** Places of which the person has not said yet that it was them. */
export async function newPlaces(database: Database, accountId: number): Promise<readonly PlaceView[]> {
  const { rows } = await database.query<PlaceView>(
    `select id, device, network, (extract(epoch from first_at) * 1000)::float8 as "atMs"
     from sign_in_place
     where account_id = $1::int and known_at is null
     order by id`,
    [accountId],
  );
  return rows;
}

/** Whether there was such a place that is known from here on. */
export async function knowPlace(database: Database, accountId: number, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "update sign_in_place set known_at = now() where account_id = $1::int and id = $2::int and known_at is null",
    [accountId, id],
  );
  return rowCount === 1;
}

/** It was somebody else: who signs in there is told of again. */
export async function forgetPlace(database: Database, accountId: number, id: number): Promise<void> {
  await database.query("delete from sign_in_place where account_id = $1::int and id = $2::int", [accountId, id]);
}
