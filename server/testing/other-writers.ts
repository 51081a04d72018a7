import { claimDatabase } from "../db/claim.ts";
import { JournalFence } from "../store/journal-fence.ts";
import type { OtherWriters } from "../store/store.ts";
import type { TestDatabase } from "./test-database.ts";

/** How a store leads others on a database, as after the lead was claimed; `failed` gathers what could not be followed. */
export async function leadingOn(db: TestDatabase, failed: Error[]): Promise<OtherWriters> {
  const claim = await claimDatabase(db.url, () => {}, true);
  await claim.note();
  await claim.release();
  return {
    url: db.url,
    fence: new JournalFence(db.database, claim.instance),
    failed: (error) => void failed.push(error),
  };
}
