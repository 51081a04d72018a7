// `npm run soak` (`-- --minutes 60`): the fault tests and the random ones over and over against one cluster, each round on new databases.
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { ensurePostgres } from "./debian-packages.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runCommand } from "./run-command.mjs";
import { runMain, say } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const { values } = parseArgs({ options: { minutes: { type: "string", default: "30" } } });

await runMain(async () => {
  await ensureNodePackages(root);
  await ensurePostgres();
  await ensureBuilt(root);
  const folder = mkdtempSync(join(tmpdir(), "nubrel-soak-"));
  chmodSync(folder, 0o711);
  const cluster = await startCluster(folder);
  const until = Date.now() + Number(values.minutes) * 60_000;
  try {
    for (let round = 1; Date.now() < until; round++) {
      const { code } = await runCommand(join(root, "node_modules/.bin/vitest"), ["run", "--project", "database", "server/store"], { cwd: root, show: true, env: { ...process.env, NUBREL_TEST_DATABASE_URL: cluster.url } });
      say(`round ${round}: ${code === 0 ? "passed" : "FAILED"}`);
      if (code !== 0) return 1;
    }
    return 0;
  } finally {
    await cluster.stop("immediate");
    rmSync(folder, { recursive: true, force: true });
  }
});
