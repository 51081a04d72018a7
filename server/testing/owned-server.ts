import type { RunningServer } from "../running-server.ts";
import pino from "pino";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { isDatabaseAway } from "../db/database-away.ts";
import { HttpClient } from "./http-client.ts";
import { type TestDatabase, testDatabase } from "./test-database.ts";

/** A server on a database of its own, with an owner who is signed in. */
export interface OwnedServer {
  readonly server: RunningServer;
  readonly db: TestDatabase;
  readonly owner: HttpClient;
  close(): Promise<void>;
}

export async function ownedServer(more: Readonly<Record<string, string>> = {}): Promise<OwnedServer> {
  const db = await testDatabase({ migrated: false });
  const server = await serverOn(db, more);
  const owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  return {
    server,
    db,
    owner,
    close: async () => {
      await server.close();
      await db.drop();
    },
  };
}

/**
 * A server on a database, whose own machine is as good as not gathered unless it is said. Where the database does not
 * answer in time, as many test files stand on it, it is started once more, as the start command would.
 */
export async function serverOn(
  db: TestDatabase,
  more: Readonly<Record<string, string>> = {},
  startsLeft = 1,
): Promise<RunningServer> {
  const config = readConfig({
    NUBREL_DATABASE_URL: db.url,
    NUBREL_PORT: "0",
    NUBREL_MACHINE: "vault",
    NUBREL_GATHER_MS: "3600000",
    ...more,
  });
  try {
    return await startServer(config, { log: pino({ level: "silent" }) });
  } catch (error) {
    if (startsLeft === 0 || !isDatabaseAway(error)) throw error;
    return await serverOn(db, more, startsLeft - 1);
  }
}
