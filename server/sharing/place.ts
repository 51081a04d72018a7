import { readFileSync, readlinkSync } from "node:fs";
import { hostname } from "node:os";

/**
 * Where this process stands on a network: the same for processes to which 127.0.0.1 is the same machine, so on Linux one
 * boot of a kernel (random(4), boot_id) and one network namespace of it (namespaces(7)).
 */
export function placeOnNetwork(): string {
  try {
    const boot = readFileSync("/proc/sys/kernel/random/boot_id", "utf8").trim();
    return `${boot} ${readlinkSync("/proc/self/ns/net")}`;
  } catch {
    return hostname();
  }
}
