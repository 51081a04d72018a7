import { existsSync, statSync } from "node:fs";
import { runCommand } from "./run-command.mjs";
import { say, Told } from "./told.mjs";

/** Whether this is what `npm run package` made: with its packages, built, and without what builds it. */
export const isPackaged = (root) => !existsSync(`${root}/package-lock.json`);

/** Installs the npm packages of the lock file where they are missing or older than it. */
export async function ensureNodePackages(root) {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Told(`Nubrel needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  if (isPackaged(root)) return;
  const installed = `${root}/node_modules/.package-lock.json`;
  if (existsSync(installed) && statSync(installed).mtimeMs >= statSync(`${root}/package-lock.json`).mtimeMs) return;
  say("Installing npm packages (once; about half a minute) ...");
  // Not `npm ci`: it refuses a lock file that lacks optional packages for other platforms, which some registries do not
  // carry. Versions are those of the lock file.
  const { code, output } = await runCommand(
    "npm",
    ["install", "--no-save", "--no-audit", "--no-fund", "--loglevel=error"],
    { cwd: root },
  );
  if (code !== 0)
    throw new Told(
      `The npm packages could not be installed:\n\n${output.split("\n").slice(-15).join("\n")}\nLook whether the npm registry can be reached and the disk has room, then start again.`,
    );
}
