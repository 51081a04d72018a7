// `npm test`: sets up what tests need, then types, lint, unit, database and browser tests against a cluster of their
// own.
// `npm run test:quick` (--quick): the parts without database and browser.
// `npm run test:package` (--package): the package, in a Debian of its own; as root, some minutes.
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { ensureBrowser, ensurePostgres } from "./debian-packages.mjs";
import { ensurePackageTools, ensureTestTools } from "./debian-tools.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runCommand } from "./run-command.mjs";
import { runMain, say } from "./told.mjs";

/** Nothing of it outlives the run, so that it need not outlive a machine that stops; several servers stand on it at a time. */
const settingsOfTests = "fsync = off\nfull_page_writes = off\nmax_connections = 120\n";
const root = dirname(dirname(fileURLToPath(import.meta.url)));
const quick = process.argv.includes("--quick");
const ofPackage = process.argv.includes("--package");

await runMain(async () => {
  await ensureNodePackages(root);
  const run = async (name, command, ...args) => {
    const began = Date.now();
    const { code } = await runCommand(
      join(root, "node_modules", command.includes("/") ? command : `.bin/${command}`),
      args,
      { cwd: root, show: true, env },
    );
    say(`${code === 0 ? "passed" : "FAILED"}: ${name}, ${((Date.now() - began) / 1000).toFixed(1)} s`);
    return code === 0;
  };
  let env = process.env;
  const plain = [
    () => run("types", "typescript-native/bin/tsc", "-b"),
    () => run("rooms", "depcruise", "--config", ".dependency-cruiser.cjs", "core", "server", "web/src"),
    () => run("nothing unused", "knip"),
    () => run("lint", "biome", "check", "--error-on-warnings", "."),
    () => run("unit tests", "vitest", "run", "--project", "unit"),
  ];
  const ends = [];
  let interrupted = false;
  for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => (interrupted = true));
  let passed = true;
  try {
    if (ofPackage) await ensurePackageTools();
    else if (!quick) {
      await ensurePostgres();
      await ensureBrowser();
      await ensureTestTools();
      await ensureBuilt(root);
      const folder = mkdtempSync(join(tmpdir(), "nubrel-test-"));
      chmodSync(folder, 0o711);
      ends.push(() => rmSync(folder, { recursive: true, force: true }));
      const cluster = await startCluster(folder, { more: settingsOfTests });
      ends.push(() => cluster.stop("immediate"));
      env = { ...process.env, NUBREL_TEST_DATABASE_URL: cluster.url };
    }
    const steps = ofPackage
      ? [() => run("package", "vitest", "run", "--project", "package")]
      : quick
        ? plain
        : [
            ...plain,
            () => run("database tests", "vitest", "run", "--project", "database"),
            () => run("browser tests", "vitest", "run", "--project", "browser"),
            () => run("browser tests under real load", "vitest", "run", "--project", "browser-alone"),
          ];
    for (const step of steps) if (!interrupted) passed = (await step()) && passed;
  } finally {
    for (const end of ends.reverse()) await end();
  }
  return passed && !interrupted ? 0 : 1;
});
