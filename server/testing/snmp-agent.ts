import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { createSocket } from "node:dgram";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

export const hasSnmpd = existsSync("/usr/sbin/snmpd") && existsSync("/usr/bin/snmpget");

export interface RealAgent {
  readonly port: number;
  /** What Debian's own client gets for a number, by version 2c. */
  get(oid: string): string;
  walk(oid: string): readonly string[];
  /** Ends and starts it: it counts its starts on, forgets how many there were, or is another engine. */
  restart(forgets: "nothing" | "starts" | "everything"): Promise<void>;
  stop(): Promise<void>;
}

/**
 * Starts Debian's agent on loopback, over UDP and TCP: community "quay", user "ines" of version 3 with SHA-256 and AES;
 * "guest" may sign only; "old" seals by DES; "narrow" sees the
 * system group alone; an `extend` table tells a text.
 */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one stand-in of an agent
export async function startSnmpd(): Promise<RealAgent> {
  const folder = mkdtempSync(join(tmpdir(), "nubrel-snmpd-"));
  const port = await freeUdpPort();
  const config = join(folder, "snmpd.conf");
  writeFileSync(
    config,
    [
      "exactEngineID 0x80001f88046b65737472656c",
      `agentaddress udp:127.0.0.1:${port},tcp:127.0.0.1:${port}`,
      "view all included .1",
      "view all excluded .1.3.6.1.2.1.25.6", // a machine has as many programs installed as it has
      "view narrow included .1.3.6.1.2.1.1",
      "rocommunity quay 127.0.0.1 -V all",
      "createUser ines SHA-256 kestrelquay AES sealedquay",
      "createUser guest SHA kestrelquay",
      "rouser ines authPriv -V all",
      "rouser guest authNoPriv -V all",
      "rocommunity narrow 127.0.0.1 -V narrow",
      "createUser old SHA kestrelquay DES sealedquay",
      "rouser old authPriv -V all",
      "extend lamp /bin/echo lamp is on",
      "extend heat /bin/echo heat 21.5 degrees",
      "sysName kestrel",
      "",
    ].join("\n"),
  );
  const start = (): ChildProcess =>
    spawn("/usr/sbin/snmpd", ["-f", "-Lf", join(folder, "log"), "-p", join(folder, "pid"), "-I", "-smux"], {
      env: {
        ...process.env,
        SNMPCONFPATH: `${folder}:${join(folder, "state")}`,
        SNMP_PERSISTENT_DIR: join(folder, "state"),
      },
      stdio: "ignore",
    });
  let child = start();
  const run = (program: string, oid: string) =>
    execFileSync(
      program,
      ["-v2c", "-c", "quay", "-On", "-Oq", "-Ot", "-Oe", "-t", "1", "-r", "3", `127.0.0.1:${port}`, oid],
      { encoding: "utf8", stdio: ["ignore", "pipe", "ignore"] },
    ).trim();
  const answers = () => {
    for (let tries = 0; ; tries++) {
      try {
        run("snmpget", "1.3.6.1.2.1.1.3.0");
        return;
      } catch (error) {
        if (tries > 20) throw error;
      }
    }
  };
  const end = async (signal: "SIGTERM" | "SIGKILL") => {
    const ended = new Promise((resolve) => child.once("exit", resolve));
    child.kill(signal);
    await ended;
  };
  answers();
  return {
    port,
    get: (oid) =>
      run("snmpget", oid)
        .replace(/^\S+ /, "")
        .replace(/^"(.*)"$/, "$1"),
    walk: (oid) =>
      run("snmpwalk", oid)
        .split("\n")
        .filter((line) => !line.includes("No Such")),
    restart: async (forgets) => {
      await end("SIGTERM"); // it stores its starts when it ends in order
      if (forgets !== "nothing") rmSync(join(folder, "state"), { recursive: true, force: true });
      if (forgets === "everything")
        writeFileSync(
          config,
          readFileSync(config, "utf8").replace(
            /^exactEngineID .*$/m,
            `exactEngineID 0x80001f8804${randomBytes(8).toString("hex")}`,
          ),
        );
      child = start();
      answers();
    },
    stop: async () => {
      await end("SIGKILL");
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

export function freeUdpPort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const socket = createSocket("udp4");
    socket.once("error", reject);
    socket.bind(0, "127.0.0.1", () => {
      const { port } = socket.address();
      socket.close(() => resolve(port));
    });
  });
}
