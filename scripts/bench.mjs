// `npm run bench`: what things cost, measured here and now; fails where a limit is missed.
import { spawnSync } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { ensureBrowser, ensurePostgres } from "./debian-packages.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runMain } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const benches = [
  "codec",
  "exposition",
  "intake",
  "snmp",
  "engine",
  "at-rest",
  "gather",
  "readings",
  "charts",
  "dashboard",
  "first-load",
  "rules",
  "differences",
  "recordings",
  "planning",
  "start-up",
  "several",
  "growth",
  "growth-days",
  "coming-and-going",
  "own-cluster",
  "pages-for-days",
];
const inBrowser = ["charts", "dashboard", "first-load", "pages-for-days"];
const wanted = process.argv.slice(2);

await runMain(async () => {
  await ensureNodePackages(root);
  await ensurePostgres();
  await ensureBuilt(root); // worker threads run the built file
  const { build } = await import("rolldown");
  const out = join(root, "dist/bench");
  try {
    await build({
      input: Object.fromEntries(benches.map((name) => [name, join(root, `bench/${name}.ts`)])),
      platform: "node",
      external: [/^node:/, /^[^./]/],
      output: { dir: out, format: "esm" },
      logLevel: "silent",
    });
    // A cluster of its own; every figure is a ratio within this run, on this machine.
    const folder = mkdtempSync(join(tmpdir(), "nubrel-bench-"));
    chmodSync(folder, 0o711);
    if (wanted.length === 0 || inBrowser.some((name) => wanted.includes(name))) await ensureBrowser();
    const cluster = await startCluster(folder);
    try {
      let missed = 0;
      for (const name of benches) {
        if (wanted.length > 0 && !wanted.includes(name)) continue;
        missed +=
          spawnSync(process.execPath, ["--expose-gc", join(out, `${name}.js`)], {
            stdio: "inherit",
            env: { ...process.env, NUBREL_BENCH_DATABASE_URL: cluster.url },
          }).status === 0
            ? 0
            : 1;
      }
      return missed;
    } finally {
      await cluster.stop("immediate");
      rmSync(folder, { recursive: true, force: true });
    }
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
});
