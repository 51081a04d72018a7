import { execFile } from "node:child_process";
import { existsSync } from "node:fs";
import { plainEnvironment } from "./cluster.mjs";

/** Where Debian and others put them; PATH is not asked. */
const folders = ["/usr/bin", "/usr/sbin", "/bin", "/sbin", "/usr/local/bin", "/usr/local/sbin"];
const timeoutMs = 20_000;
const device = /^\/dev\/(?!.*\.\.)[\w/.-]+$/;
const mountpoint = /^\/[^\0\n]*$/;

/**
 * All that is run for the server with root's rights: a program and its arguments, word for word but for the names of
 * devices and mountpoints. They only read.
 */
const allowed = [
  ["virsh", "-r", "domstats", "--raw"],
  ["zpool", "list", "-H", "-p", "-o", "name,size,allocated,free,health,fragmentation"],
  ["zpool", "status", "-p"],
  ["zfs", "list", "-H", "-p", "-t", "filesystem,volume", "-o", "name,used,available"],
  ["btrfs", "filesystem", "usage", "-b", mountpoint],
  ["btrfs", "--format", "json", "device", "stats", mountpoint],
  ["ss", "-tinHO", "state", "established"],
  ["smartctl", "--scan", "--json"],
  ["smartctl", "--json=c", "--nocheck=standby", "--health", "--attributes", "--device", /^[a-z][\w,+-]*$/, device],
];

/** Whether a program may be run with these arguments. */
export function isAllowed(program, args) {
  if (typeof program !== "string" || !Array.isArray(args)) return false;
  const words = [program, ...args];
  return allowed.some(
    (line) =>
      line.length === words.length &&
      line.every(
        (part, i) =>
          typeof words[i] === "string" && (typeof part === "string" ? part === words[i] : part.test(words[i])),
      ),
  );
}

/**
 * Runs one of the few programs that need root for the server, which does not have its rights: without a shell, with an
 * environment of its own, bounded in time and text.
 * Answers `{ code, out, err }`; undefined where it is not allowed, not there, or did not end.
 */
export function runForServer(program, args) {
  if (!isAllowed(program, args)) return Promise.resolve(undefined);
  const path = folders.map((folder) => `${folder}/${program}`).find((one) => existsSync(one));
  if (!path) return Promise.resolve(undefined);
  return new Promise((done) => {
    execFile(
      path,
      args,
      {
        timeout: timeoutMs,
        killSignal: "SIGKILL",
        maxBuffer: 16 * 1_048_576,
        env: plainEnvironment(),
        encoding: "utf8",
      },
      (error, out, err) =>
        done(
          error?.killed ? undefined : { code: typeof error?.code === "number" ? error.code : error ? 1 : 0, out, err },
        ),
    );
  });
}
