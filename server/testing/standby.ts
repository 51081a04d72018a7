import { chmodSync, chownSync, copyFileSync, mkdirSync, readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import { startCluster } from "../../scripts/cluster.mjs";
import { findPostgres } from "../../scripts/debian-packages.mjs";
import { runCommand } from "../../scripts/run-command.mjs";
import { openConnection } from "../db/pool.ts";

export type Cluster = Awaited<ReturnType<typeof startCluster>>;

/** Asks one cluster as its administrator. */
export async function askCluster(url: string, text: string): Promise<readonly Record<string, unknown>[]> {
  const connection = await openConnection(url, () => {});
  try {
    return (await connection.query(text)).rows;
  } finally {
    await connection.end();
  }
}

/** A standby of a cluster in `folder`, made and started by PostgreSQL's own means, on which every commit waits from then on. */
export async function startStandby(primary: Cluster, folder: string): Promise<Cluster> {
  const bin = findPostgres(primary.major) as string;
  const { uid, gid } = statSync(primary.data);
  mkdirSync(folder, { recursive: true });
  chmodSync(folder, 0o711);
  const data = join(folder, "postgres");
  mkdirSync(data, { mode: 0o700 });
  chownSync(data, uid, gid);
  copyFileSync(join(primary.data, "../postgres-password"), join(folder, "postgres-password"));
  chmodSync(join(folder, "postgres-password"), 0o600);
  const { password, port } = new URL(primary.url);
  const { code, output } = await runCommand(
    join(bin, "pg_basebackup"),
    ["-h", "127.0.0.1", "-p", port, "-U", "nubrel", "-D", data, "-R", "-X", "stream", "-c", "fast"],
    { ...(process.getuid?.() === 0 && { uid, gid }), env: { ...process.env, PGPASSWORD: password }, cwd: "/" },
  );
  if (code !== 0) throw new Error(`pg_basebackup failed: ${output}`);
  const standby = await startCluster(folder);
  await askCluster(primary.url, "alter system set synchronous_standby_names = '*'");
  await askCluster(primary.url, "select pg_reload_conf()");
  for (;;) {
    const [row] = await askCluster(primary.url, "select sync_state from pg_stat_replication");
    if (row?.["sync_state"] === "sync") return standby;
  }
}

/** Ends a cluster as a power cut does. */
export async function killCluster({ data, isRunning }: Cluster): Promise<void> {
  process.kill(Number(readFileSync(join(data, "postmaster.pid"), "utf8").split("\n", 1)[0]), "SIGKILL");
  while (isRunning()) await new Promise((resolve) => setTimeout(resolve, 50));
}
