import { spawn } from "node:child_process";
import { setTimeout as delay } from "node:timers/promises";
import { Told, say } from "./told.mjs";

/**
 * Exit code of a server that says itself why it cannot run; starting it again would not mend that (server/foreseen.ts).
 */
const foreseen = 2;
const deathsInMs = 600_000;
const mostDeaths = 5;
const pauseMs = 1000;

/**
 * Runs the server and starts it again when it died: killed, out of memory, ended by a fault. Five deaths in ten minutes
 * end it: throws Told. Answers its exit code where it ended because
 * it was asked to, or said itself why it cannot run.
 * @param {object} what
 * @param {readonly string[]} what.command program and arguments
 * @param {NodeJS.ProcessEnv} what.env
 * @param {() => boolean} what.wantsStop
 * @param {(server: import("node:child_process").ChildProcess) => void} what.started called with every server that is
 * started
 */
export async function keepServer(
  { command, env, wantsStop, started },
  { nowMs = () => performance.now(), againAfterMs = pauseMs } = {},
) {
  const deaths = [];
  let wasReady = false;
  let why = "";
  for (;;) {
    const server = spawn(command[0], command.slice(1), {
      stdio: ["inherit", "inherit", "inherit", "ipc"],
      env: { ...env, ...(why !== "" && { NUBREL_RESTARTED: why }) },
    });
    server.on("message", (message) => {
      if (message.kind === "ready") wasReady = true;
    });
    started(server);
    const { code, signal } = await new Promise((done, failed) => {
      server.once("error", failed);
      server.once("exit", (code, signal) => done({ code, signal }));
    });
    if (wantsStop()) return signal ? 0 : code;
    if (code === foreseen) return 1; // it said why
    if (code === 0 || !wasReady) return code ?? 1; // it ended by itself, or never began
    deaths.push(nowMs());
    why = signal ? `it was ended by ${signal}` : `it ended with code ${code}`;
    if (deaths.filter((at) => nowMs() - at < deathsInMs).length >= mostDeaths)
      throw new Told(
        `The server died ${mostDeaths} times within ten minutes (the last time ${why}) and is not started again. What it said stands above; what was stored is safe. Start it again when that is mended.`,
      );
    say(`The server is gone: ${why}. It is started again.`);
    await delay(againAfterMs);
    if (wantsStop()) return 0;
  }
}
