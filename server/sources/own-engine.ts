import { existsSync } from "node:fs";
import type { Sources } from "./sources.ts";
import type { MachineFiles } from "../gather/this-machine/machine-files.ts";
import { findControlGroups } from "../gather/containers/control-groups.ts";

/** Where engines put their sockets. */
const commonSockets = ["/run/docker.sock", "/var/run/docker.sock", "/run/podman/podman.sock"];
const everyMs = 15_000;

/**
 * Gathers the containers of the machine that Nubrel runs on from the start: by its engine's socket, else by control
 * groups. A source that a person has removed is not made again.
 */
export async function connectOwnEngine(sources: Sources, machine: string, files: MachineFiles): Promise<void> {
  if (await sources.hadKind("containers")) return;
  const socket = commonSockets.find((path) => existsSync(path)) ?? "";
  if (socket === "" && findControlGroups(files).size === 0) return;
  const taken = new Set(sources.all().map(({ source }) => source.name.toLowerCase()));
  const name = taken.has(`containers of ${machine}`.toLowerCase())
    ? `containers of ${machine} (own)`
    : `containers of ${machine}`;
  await sources.create("containers", {
    name,
    machine,
    intervalMs: everyMs,
    tellsSilence: true,
    address: null,
    trust: { kind: "system" },
    device: { kind: "containers", socket, timeoutMs: 5000, rules: [], labels: [], command: false },
    tags: {},
    take: [],
    csv: null,
  });
}
