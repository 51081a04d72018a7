import type { RunningServer } from "../running-server.ts";
import pino from "pino";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
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

/** A server on a database, whose own machine is as good as not gathered unless it is said. */
export function serverOn(db: TestDatabase, more: Readonly<Record<string, string>> = {}): Promise<RunningServer> {
  return startServer(
    readConfig({
      NUBREL_DATABASE_URL: db.url,
      NUBREL_PORT: "0",
      NUBREL_MACHINE: "vault",
      NUBREL_GATHER_MS: "3600000",
      ...more,
    }),
    { log: pino({ level: "silent" }) },
  );
}
