import { spawn } from "node:child_process";
import {
  createReadStream,
  createWriteStream,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  closeSync,
  writeFileSync,
} from "node:fs";
import { dirname, join } from "node:path";
import { ownFolder } from "./data-folder.mjs";
import { pipeline } from "node:stream/promises";

// A backup is one file: a line that says what it is, a line of JSON with the files beside the database (keys), then
// PostgreSQL's own dump.
// Through pipes on both sides: the dump must not learn that it does not stand at the file's beginning.
const mark = "nubrel backup 1\n";
/** What stands beside the database and cannot be made again: the key of sealed secrets, the house authority. */
const besides = [
  "secrets.key",
  "house/authority.key",
  "house/authority.crt",
  "house/permitted.json",
  "house/server.key",
  "house/server.crt",
];
const mostHeader = 1_000_000;

/**
 * Writes the dump that `program args` prints, and the files of `folder`, into `file`; the program runs in the
 * environment `env`. Answers the program's exit code.
 */
export async function writeBackup(file, folder, program, args, env) {
  const files = Object.fromEntries(
    besides
      .filter((name) => existsSync(join(ownFolder(folder), name)))
      .map((name) => [name, readFileSync(join(ownFolder(folder), name), "base64")]),
  );
  writeFileSync(file, `${mark}${JSON.stringify({ files })}\n`, { mode: 0o600, flag: "wx" });
  const child = spawn(program, args, { stdio: ["ignore", "pipe", "inherit"], env });
  const ended = new Promise((done) => child.once("exit", (code) => done(code ?? 1)));
  await pipeline(child.stdout, createWriteStream(file, { flags: "a" }));
  return await ended;
}

/**
 * Feeds the dump in `file` to `program args`; then puts the files that were beside it into `folder`; the program runs
 * in the environment `env`. Answers the program's exit code.
 */
export async function readBackup(file, folder, program, args, env) {
  const code = await readDump(file, program, args, env);
  if (code !== 0) return code;
  for (const [name, text] of Object.entries(readHeader(file).files)) {
    if (!besides.includes(name)) continue;
    mkdirSync(dirname(join(ownFolder(folder), name)), { recursive: true, mode: 0o700 });
    writeFileSync(join(ownFolder(folder), name), Buffer.from(text, "base64"), { mode: 0o600 });
  }
  return 0;
}

/** Feeds the dump in `file` to `program args`, and no more. Answers the program's exit code. */
export async function readDump(file, program, args, env) {
  const child = spawn(program, args, { stdio: ["pipe", "inherit", "inherit"], env });
  const ended = new Promise((done) => child.once("exit", (code) => done(code ?? 1)));
  // it says itself why it reads no further
  await pipeline(createReadStream(file, { start: readHeader(file).at }), child.stdin).catch(() => {});
  return await ended;
}

/** Backups of the first version are the dump alone. */
function readHeader(file) {
  const fd = openSync(file, "r");
  try {
    const bytes = Buffer.alloc(mostHeader);
    const text = bytes.subarray(0, readSync(fd, bytes, 0, mostHeader, 0)).toString("latin1");
    if (!text.startsWith(mark)) return { files: {}, at: 0 };
    const end = text.indexOf("\n", mark.length);
    return { files: JSON.parse(text.slice(mark.length, end)).files, at: end + 1 };
  } catch {
    return { files: {}, at: 0 };
  } finally {
    closeSync(fd);
  }
}
