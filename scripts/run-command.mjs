import { spawn } from "node:child_process";

/**
 * Runs a command to its end. Resolves to `{ code, output }` with what it printed; `show` lets it print to the terminal
 * instead.
 * @param {string} command
 * @param {readonly string[]} args
 * @param {{ show?: boolean, cwd?: string, env?: NodeJS.ProcessEnv, uid?: number, gid?: number, input?: string,
 * detached?: boolean }} [options]
 */
export function runCommand(command, args, { show = false, ...options } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      ...options,
      stdio: ["ignore", show ? "inherit" : "pipe", show ? "inherit" : "pipe"],
    });
    let output = "";
    child.stdout?.on("data", (data) => (output += data));
    child.stderr?.on("data", (data) => (output += data));
    child.once("error", reject);
    // "exit", not "close": a daemon that was started keeps the pipes open.
    child.once("exit", (code, signal) =>
      setTimeout(
        () => {
          child.stdout?.destroy();
          child.stderr?.destroy();
          resolve({ code: code ?? 128, signal, output });
        },
        show ? 0 : 10,
      ),
    );
  });
}
