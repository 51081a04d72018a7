import type { Roots } from "./machine-files.ts";

/** What of its machine a server in a container does not see, and what would show it, as sentences. */
export function unseenOf(
  { proc, sys, root }: Roots,
  contained: boolean,
  names: readonly string[] = [],
): readonly string[] {
  if (!contained) return [];
  return [
    ...(names.length === 0
      ? [
          "By which names others reach the host is not known in it: say them in NUBREL_NAMES, so that links and texts to paste lead here.",
        ]
      : []),
    ...(proc === "/proc"
      ? [
          "The network, the processes and the mounts that are counted are the container's own. Mount the host's /proc at /host/proc, read only, and set NUBREL_PROC=/host/proc.",
        ]
      : []),
    ...(root === "/"
      ? [
          "Of the host's filesystems only those are seen that the container has. Mount the host's / at /host/root, read only, and set NUBREL_ROOT=/host/root.",
        ]
      : []),
    ...(sys === "/sys"
      ? [
          "Of sensors, drives and interfaces only what the container's /sys shows is seen. Mount the host's /sys at /host/sys, read only, and set NUBREL_SYS=/host/sys.",
        ]
      : []),
    "What drives and arrays say of themselves needs programs and rights of the host: connect it as a Linux machine, with a collector there.",
  ];
}
