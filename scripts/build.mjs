import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { isPackaged } from "./node-packages.mjs";
import { precompress } from "./precompress.mjs";
import { runCommand } from "./run-command.mjs";
import { say, Told } from "./told.mjs";

const sources = [
  "core",
  "server",
  "standins",
  "bin",
  "web",
  "package-lock.json",
  "rolldown.config.mjs",
  "vite.config.ts",
];

/** Builds server and interface into `dist/` where a source changed since the last time. */
export async function ensureBuilt(root) {
  if (isPackaged(root)) return;
  const now = fingerprint(root);
  const stamp = join(root, "dist/.fingerprint");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === now) return;
  say("Building server and interface ...");
  // Whoever has it built, a test say: what is built is what people use.
  const env = { ...process.env, NODE_ENV: "production" };
  const [server, web] = await Promise.all([
    runCommand("node_modules/.bin/rolldown", ["-c", "rolldown.config.mjs"], { cwd: root }),
    runCommand("node_modules/.bin/vite", ["build", "--logLevel", "warn"], { cwd: root, env }),
  ]);
  for (const { code, output } of [server, web]) if (code !== 0) throw new Told(`The build failed:\n\n${output}`);
  await precompress(join(root, "dist/web"));
  writeFileSync(stamp, now);
}

/**
 * Changes when a source file is changed, added or removed; by size and time, as reading all would cost more than
 * building.
 */
function fingerprint(root) {
  const hash = createHash("sha256");
  const add = (path) => {
    const full = join(root, path);
    const stat = statSync(full, { throwIfNoEntry: false });
    if (stat?.isDirectory()) for (const name of readdirSync(full).sort()) add(join(path, name));
    else if (stat && !path.endsWith(".test.ts")) hash.update(`${path} ${stat.size} ${stat.mtimeMs}\n`);
  };
  sources.forEach(add);
  return hash.digest("hex");
}
