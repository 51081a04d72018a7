import { type Claim, claimDatabase, type TakenError } from "./claim.ts";
import { migrate } from "./migrate.ts";
import { type Database, openDatabase } from "./pool.ts";

/** The database of this server alone, with its tables as this version has them. */
export interface ClaimedDatabase {
  readonly database: Database;
  /** Whether it is this server's still; what writes asks. */
  readonly isHeld: () => boolean;
  /** Names this server among those that serve the database. */
  readonly instance: string;
  close(): Promise<void>;
}

/**
 * Claims the database at `url`, unless it has been for this process, and brings it up to date. `lost` is called where
 * another server has begun to work on it meanwhile. Throws TakenError.
 */
export async function openClaimedDatabase(
  url: string,
  lost: (error: TakenError) => void,
  isOneOfSeveral = false,
  claimed?: Claim,
): Promise<ClaimedDatabase> {
  const claim = claimed ?? (await claimDatabase(url, lost, isOneOfSeveral));
  const database = openDatabase(url);
  const close = async () => {
    await database.end();
    await claim.release();
  };
  try {
    await migrate(database);
    await claim.note();
    return { database, isHeld: () => claim.held, instance: claim.instance, close };
  } catch (error) {
    await close().catch(() => {});
    throw error;
  }
}
