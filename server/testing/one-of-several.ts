import { join } from "node:path";
import { startServerProcess } from "../../e2e/support/server-process.mjs";

export type ServerProcess = Awaited<ReturnType<typeof startServerProcess>>;

/** Starts a real server process, one of several on a database, whose key is in a folder that they share. */
export function startOneOfSeveral(
  url: string,
  folder: string,
  more: Readonly<Record<string, string>>,
): Promise<ServerProcess> {
  return startServerProcess(url, {
    env: { NUBREL_SEVERAL_SERVERS: "yes", NUBREL_MACHINE: "vault", NUBREL_KEY_FILE: join(folder, "key"), ...more },
  });
}
