import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { createSocket } from "node:dgram";
import { existsSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

export const hasSnmpd = existsSync("/usr/sbin/snmpd") && existsSync("/usr/bin/snmpget");

export interface RealAgent {
  readonly port: number;
  /** What Debian's own client gets for a number, by version 2c. */
  get(oid: string): string;
  walk(oid: string): readonly string[];
  stop(): Promise<void>;
}

/** Starts Debian's agent on loopback: community "quay", user "ines" of version 3 with SHA-256 and AES; "guest" may sign only; "narrow" sees the system group alone. */
export async function startSnmpd(): Promise<RealAgent> {
  const folder = mkdtempSync(join(tmpdir(), "nubrel-snmpd-"));
  const port = await freeUdpPort();
  writeFileSync(
    join(folder, "snmpd.conf"),
    [`agentaddress udp:127.0.0.1:${port}`, "view all included .1", "view narrow included .1.3.6.1.2.1.1", "rocommunity quay 127.0.0.1 -V all", "createUser ines SHA-256 kestrelquay AES sealedquay", "createUser guest SHA kestrelquay", "rouser ines authPriv -V all", "rouser guest authNoPriv -V all", "rocommunity narrow 127.0.0.1 -V narrow", "sysName kestrel", ""].join("\n"),
  );
  const child: ChildProcess = spawn("/usr/sbin/snmpd", ["-f", "-Lf", join(folder, "log"), "-C", "-c", join(folder, "snmpd.conf"), "-p", join(folder, "pid"), "-I", "-smux"], { env: { ...process.env, SNMP_PERSISTENT_DIR: join(folder, "state") }, stdio: "ignore" });
  const run = (program: string, oid: string) => execFileSync(program, ["-v2c", "-c", "quay", "-On", "-Oq", "-Ot", "-Oe", "-t", "1", "-r", "3", `127.0.0.1:${port}`, oid], { encoding: "utf8", stdio: ["ignore", "pipe", "ignore"] }).trim();
  for (let tries = 0; ; tries++) {
    try {
      run("snmpget", "1.3.6.1.2.1.1.3.0");
      break;
    } catch (error) {
      if (tries > 20) throw error;
    }
  }
  return {
    port,
    get: (oid) => run("snmpget", oid).replace(/^\S+ /, "").replace(/^"(.*)"$/, "$1"),
    walk: (oid) => run("snmpwalk", oid).split("\n").filter((line) => !line.includes("No Such")),
    stop: async () => {
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGKILL");
      await ended;
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
