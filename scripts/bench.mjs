// `npm run bench`: what things cost, measured here and now; fails where a limit is missed.
import { spawnSync } from "node:child_process";
import { rmSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { ensureNodePackages } from "./node-packages.mjs";
import { runMain } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const benches = ["gather", "readings", "start-up"];

await runMain(async () => {
  await ensureNodePackages(root);
  const { build } = await import("rolldown");
  const out = join(root, "dist/bench");
  try {
    await build({ input: Object.fromEntries(benches.map((name) => [name, join(root, `bench/${name}.ts`)])), platform: "node", external: [/^node:/, /^[^./]/], output: { dir: out, format: "esm" }, logLevel: "silent" });
    let missed = 0;
    for (const name of benches) missed += spawnSync(process.execPath, [join(out, `${name}.js`)], { stdio: "inherit" }).status === 0 ? 0 : 1;
    return missed;
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
});
