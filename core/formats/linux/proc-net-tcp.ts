import type { Emit } from "../../counters/counter.ts";
import { serviceName } from "../network/services.ts";

const established = "01";
const listening = "0A";
/** More protocols than these are counted together. */
const mostProtocols = 12;
/** Longer tables are counted up to here: reading them takes the kernel's time. */
const mostLines = 50_000;

/**
 * Counts open connections of /proc/net/tcp and tcp6 (proc(5)) by application protocol: the service of the port that
 * this machine listens
 * on, else of the other side's. Connections within the machine are left out. `texts` are the two files; a missing one
 * is empty.
 */
export function readProcNetTcp(texts: readonly string[], emit: Emit): void {
  const listeners = new Set<string>();
  const open: (readonly [local: string, remote: string])[] = [];
  for (const text of texts) {
    let from = text.indexOf("\n") + 1; // the first line names the columns
    for (let lines = 0; from > 0 && from < text.length && lines < mostLines; lines++) {
      const end = text.indexOf("\n", from);
      const fields = text
        .slice(from, end < 0 ? text.length : end)
        .trim()
        .split(/ +/);
      from = end < 0 ? text.length : end + 1;
      const [, local = "", remote = "", state] = fields;
      const port = local.slice(local.indexOf(":") + 1);
      if (state === listening) listeners.add(port);
      else if (state === established && !isOwn(remote)) open.push([port, remote.slice(remote.indexOf(":") + 1)]);
    }
  }
  const counts = new Map<string, number>();
  for (const [local, remote] of open) {
    const port = Number.parseInt(listeners.has(local) ? local : remote, 16);
    if (!Number.isFinite(port)) continue;
    const name = serviceOf(port);
    counts.set(name, (counts.get(name) ?? 0) + 1);
  }
  const ordered = [...counts].sort(([a, n], [b, m]) => m - n || (a < b ? -1 : 1));
  const others = ordered.splice(mostProtocols).reduce((sum, [, n]) => sum + n, 0);
  for (const [protocol, n] of ordered) emit("system.network.connection.count", { protocol, transport: "tcp" }, n);
  if (others > 0) emit("system.network.connection.count", { protocol: "others", transport: "tcp" }, others);
}

const serviceOf = (port: number): string => serviceName(port) ?? `port ${port}`;

/** Loopback, in the kernel's byte order: 127.x.x.x, ::1, and 127.x.x.x mapped into IPv6. */
function isOwn(address: string): boolean {
  const host = address.slice(0, address.indexOf(":"));
  if (host.length === 8) return host.endsWith("7F");
  return (
    host === "00000000000000000000000001000000" || (host.startsWith("0000000000000000FFFF0000") && host.endsWith("7F"))
  );
}
