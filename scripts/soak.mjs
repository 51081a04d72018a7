// `npm run soak`: faults, hostile inputs and hostile requests for as long as is wished, against a cluster of its own.
//   npm run soak                        the fault tests of the store over and over (--minutes 30)
//   npm run soak -- --faults            a server under load, and everything that can go wrong around it: killed, cut
// off, copied, damaged, clocks set; every acknowledged sample is compared
//   npm run soak -- --inputs 1000000    so many changed inputs to every reader (--seed 1)
//   npm run soak -- --servers 2         so many servers on one database, killed at random moments; every acknowledged sample is
// compared
//   npm run soak -- --hostile           a server with hostile requests and pages for --minutes; no line of its log may
// be told by no page
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { ensurePostgres } from "./debian-packages.mjs";
import { ensureClockTools } from "./debian-tools.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runCommand } from "./run-command.mjs";
import { soakFaults } from "./soak-faults.mjs";
import { soakHostile } from "./soak-hostile.mjs";
import { soakServers } from "./soak-servers.mjs";
import { runMain, say } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const { values } = parseArgs({
  options: {
    minutes: { type: "string", default: "30" },
    inputs: { type: "string" },
    seed: { type: "string", default: "1" },
    faults: { type: "boolean" },
    hostile: { type: "boolean" },
    servers: { type: "string" },
  },
});
const minutes = Number(values.minutes);
const vitest = (args, env = {}) =>
  runCommand(join(root, "node_modules/.bin/vitest"), ["run", ...args], {
    cwd: root,
    show: true,
    env: { ...process.env, ...env },
  });

await runMain(async () => {
  await ensureNodePackages(root);
  if (values.inputs !== undefined)
    return (
      await vitest(["--project", "unit", "core/testing/hostile", "-t", "changed a little"], {
        NUBREL_SOAK_INPUTS: values.inputs,
        NUBREL_SOAK_SEED: values.seed,
      })
    ).code;
  await ensurePostgres();
  await ensureBuilt(root);
  const folder = mkdtempSync(join(tmpdir(), "nubrel-soak-"));
  chmodSync(folder, 0o711);
  try {
    if (values.faults) await ensureClockTools();
    if (values.faults) return await soakFaults({ root, folder, minutes, seed: Number(values.seed) });
    if (values.servers !== undefined)
      return await soakServers({ folder, minutes, seed: Number(values.seed), count: Number(values.servers) });
    if (values.hostile) return await soakHostile({ root, folder, minutes, seed: Number(values.seed) });
    const cluster = await startCluster(folder);
    try {
      for (let round = 1, until = Date.now() + minutes * 60_000; Date.now() < until; round++) {
        const { code } = await vitest(["--project", "database", "server/store"], {
          NUBREL_TEST_DATABASE_URL: cluster.url,
        });
        say(`round ${round}: ${code === 0 ? "passed" : "FAILED"}`);
        if (code !== 0) return 1;
      }
      return 0;
    } finally {
      await cluster.stop("immediate");
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
