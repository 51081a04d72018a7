import type { RelayedSource } from "../../core/relay/relay-wire.ts";
import type { AskingServer } from "../../core/sources/share-out.ts";
import type { Database } from "../db/pool.ts";

/** That a server asks a source. */
export interface Lease {
  readonly id: number;
  readonly server: string;
  readonly askedBack: boolean;
}

/** A lease as its holder is told of it. */
export interface HeldLease {
  readonly id: number;
  /** Another one than before says that the source is to be asked otherwise. */
  readonly turn: number;
  readonly haste: RelayedSource["haste"];
  readonly askedBack: boolean;
}

/** So long a lease holds after its holder has said that it holds it. */
export const leaseSeconds = 6;
/** A server that has not said so for so long is given nothing more. */
const heardSeconds = 3;

/** Ends the leases of which nobody said in time that they are held, and lists the others. */
export async function listLeases(database: Database): Promise<readonly Lease[]> {
  await database.query("delete from source_lease where until < now()");
  const { rows } = await database.query<Lease>(
    `select source_id as id, server, asked_back as "askedBack" from source_lease order by source_id`,
  );
  return rows;
}

/** The sources that other servers ask when this one begins to lead; none where it is to be alone. */
export async function leasesOfOthers(database: Database, isOneOfSeveral: boolean): Promise<readonly number[]> {
  if (!isOneOfSeveral) await database.query("delete from source_lease");
  return (await listLeases(database)).map(({ id }) => id);
}

/** The servers that stand beside this one, ask sources, and have said so just now. */
export async function listAskers(database: Database, place: string): Promise<readonly AskingServer[]> {
  const { rows } = await database.query<AskingServer>(
    `select instance as server, place = $1::text as "isHere"
     from beside
     where place is not null and asking > now() - make_interval(secs => $2::float8)
     order by since, instance`,
    [place, heardSeconds],
  );
  return rows;
}

export async function giveLeases(
  database: Database,
  leases: readonly (Pick<Lease, "id" | "server"> & Pick<HeldLease, "haste">)[],
): Promise<void> {
  await database.query(
    `insert into source_lease (source_id, server, until, haste)
     select id, server, now() + make_interval(secs => $4::float8), haste
     from unnest($1::int[], $2::uuid[], $3::jsonb[]) as given (id, server, haste)`,
    [
      leases.map(({ id }) => id),
      leases.map(({ server }) => server),
      leases.map(({ haste }) => haste && JSON.stringify(haste)),
      leaseSeconds,
    ],
  );
}

export async function askBackLeases(database: Database, ids: readonly number[]): Promise<void> {
  await database.query("update source_lease set asked_back = true where source_id = any($1::int[])", [ids]);
}

/** A source is to be asked otherwise. */
export async function changeLease(database: Database, { id, haste }: Pick<HeldLease, "id" | "haste">): Promise<void> {
  await database.query("update source_lease set turn = turn + 1, haste = $2::jsonb where source_id = $1::int", [
    id,
    haste && JSON.stringify(haste),
  ]);
}

/** A server says that it asks, and holds its leases; the answer is those that it still has. */
export async function renewLeases(database: Database, server: string): Promise<readonly HeldLease[]> {
  const { rows } = await database.query<HeldLease>(
    `with said as (update beside set asking = now() where instance = $1::uuid)
     update source_lease set until = now() + make_interval(secs => $2::float8)
     where server = $1::uuid and until >= now()
     returning source_id as id, turn, haste, asked_back as "askedBack"`,
    [server, leaseSeconds],
  );
  return rows;
}

/** A server gives leases back: it asks these sources no more. All of them without `ids`. */
export async function returnLeases(database: Database, server: string, ids?: readonly number[]): Promise<void> {
  await database.query(
    "delete from source_lease where server = $1::uuid and ($2::int[] is null or source_id = any($2::int[]))",
    [server, ids ?? null],
  );
}
