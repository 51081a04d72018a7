import { existsSync, readdirSync, readFileSync } from "node:fs";
import { statfs } from "node:fs/promises";
import { join } from "node:path";
import type { Statfs } from "../../../core/formats/linux/filesystem-space.ts";

/** What gathering needs of a Linux machine. Paths are absolute, as on the machine itself. */
export interface MachineFiles {
  /** The text of a file; undefined where it is missing or may not be read. */
  read(path: string): string | undefined;
  /** The names in a folder; empty where it is missing. */
  list(path: string): readonly string[];
  /** Space of a mounted filesystem; undefined where it does not answer. */
  space(mountpoint: string): Promise<Statfs | undefined>;
}

/** Which folders stand for /proc, /sys and /; other ones in containers and tests. */
export interface Roots {
  readonly proc: string;
  readonly sys: string;
  readonly root: string;
}

export const thisMachine: Roots = { proc: "/proc", sys: "/sys", root: "/" };

/**
 * Reads the machine below `roots`. Files of /proc and /sys are made by the kernel on reading and never wait for a disk,
 * so they are
 * read synchronously: an asynchronous read costs eleven times the processor time (measured on Node.js 20: 210 µs
 * against 18 µs).
 */
export function machineFiles(roots: Roots = thisMachine): MachineFiles {
  // Where the host's /proc is mounted elsewhere, its own shortcuts lead to whoever reads: the network and the mounts of
  // the host are those of its first process.
  const ofFirst = roots.proc !== "/proc" && existsSync(join(roots.proc, "1/net/dev"));
  const place = (path: string) => {
    if (ofFirst && /^\/proc\/(net\/|mounts$|self\/mounts$)/.test(path))
      return join(roots.proc, "1", path.replace(/^\/proc\/(self\/)?/, ""));
    if (path.startsWith("/proc/")) return join(roots.proc, path.slice(6));
    if (path.startsWith("/sys/")) return join(roots.sys, path.slice(5));
    return join(roots.root, path);
  };
  return {
    read(path) {
      try {
        return readFileSync(place(path), "utf8");
      } catch {
        return undefined; // missing in this kernel, gone meanwhile (a process), or not ours to read
      }
    },
    list(path) {
      try {
        return readdirSync(place(path));
      } catch {
        return [];
      }
    },
    space: (mountpoint) => statfs(place(mountpoint)).catch(() => undefined),
  };
}
