import { type ChildProcess, execFile, spawn } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { freeTcpPort } from "./free-port.ts";

const run = promisify(execFile);

export const hasUpsDaemon = ["/lib/nut/upsd", "/lib/nut/dummy-ups", "/usr/bin/upsc"].every((program) =>
  existsSync(program),
);

export interface UpsDaemon {
  readonly port: number;
  /** Ends the driver: the daemon goes on, and knows nothing any more. */
  endDriver(): Promise<void>;
  stop(): Promise<void>;
}

/**
 * Starts Debian's daemon for power supplies on loopback with its dummy driver: a supply "rack" that says these lines.
 */
export async function startUpsDaemon(lines: Readonly<Record<string, string | number>>): Promise<UpsDaemon> {
  const folder = mkdtempSync(join(tmpdir(), "nubrel-ups-"));
  const port = await freeTcpPort();
  mkdirSync(join(folder, "state"));
  const write = (name: string, text: string) => writeFileSync(join(folder, name), text, { mode: 0o640 });
  write("ups.conf", `[rack]\n  driver = dummy-ups\n  port = ${join(folder, "rack.dev")}\n`);
  write("upsd.conf", `LISTEN 127.0.0.1 ${port}\n`);
  write("upsd.users", "");
  write(
    "rack.dev",
    Object.entries(lines)
      .map(([name, value]) => `${name}: ${value}\n`)
      .join(""),
  );
  const user = process.getuid?.() === 0 ? ["-u", "root"] : [];
  const env = {
    PATH: process.env["PATH"],
    NUT_CONFPATH: folder,
    NUT_STATEPATH: join(folder, "state"),
    NUT_ALTPIDPATH: join(folder, "state"),
  };
  const driver = spawn("/lib/nut/dummy-ups", ["-a", "rack", ...user, "-D"], { env, stdio: "ignore" });
  for (let tries = 0; tries < 100 && !existsSync(join(folder, "state/dummy-ups-rack")); tries++)
    await new Promise((resolve) => setTimeout(resolve, 50));
  const daemon = spawn("/lib/nut/upsd", ["-D", ...user], { env, stdio: "ignore" });
  // The driver reads its lines one after the other.
  const last = Object.keys(lines).at(-1) as string;
  const isThere = () =>
    run("/usr/bin/upsc", [`rack@127.0.0.1:${port}`, last]).then(
      () => true,
      () => false,
    );
  for (let tries = 0; tries < 100 && !(await isThere()); tries++)
    await new Promise((resolve) => setTimeout(resolve, 50));
  return {
    port,
    endDriver: () => ended(driver),
    stop: async () => {
      await ended(daemon);
      await ended(driver);
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

function ended(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    child.once("exit", () => resolve());
    child.kill("SIGKILL");
  });
}
