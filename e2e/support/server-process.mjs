import { fork } from "node:child_process";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = dirname(dirname(dirname(fileURLToPath(import.meta.url))));

/**
 * Starts the built server as a process of its own on a free port. Resolves when it serves; rejects with what it said
 * where it ends before.
 * @param {string} databaseUrl
 * @param {{ demo?: boolean, env?: Record<string, string> }} [options]
 */
export function startServerProcess(databaseUrl, { demo = false, env = {} } = {}) {
  const child = fork(join(root, demo ? "dist/server/demo.js" : "dist/server/start.js"), [], {
    env: { ...process.env, NUBREL_PORT: "0", NUBREL_DATABASE_URL: databaseUrl, ...env },
    silent: true,
  });
  let said = "";
  child.stdout.on("data", (data) => (said += data));
  child.stderr.on("data", (data) => (said += data));
  const ended = new Promise((resolve) => child.once("exit", (code, signal) => resolve({ code, signal })));
  return new Promise((resolve, reject) => {
    child.once("message", ({ address, setupCode }) => {
      resolve({
        address,
        setupCode,
        pid: child.pid,
        said: () => said,
        kill: (signal = "SIGKILL") => {
          child.kill(signal);
          return ended;
        },
        stop: () => {
          child.kill("SIGTERM");
          return ended;
        },
      });
    });
    void ended.then(({ code, signal }) => reject(new Error(`the server ended (${code ?? signal}) and said:\n${said}`)));
  });
}
