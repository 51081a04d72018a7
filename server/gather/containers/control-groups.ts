import type { Emit } from "../../../core/counters/counter.ts";
import { readControlGroup1, readControlGroup2 } from "../../../core/formats/containers/control-group.ts";
import type { MachineFiles } from "../this-machine/machine-files.ts";

const base = "/sys/fs/cgroup";
const controllers1 = ["memory", "cpuacct", "cpu,cpuacct", "cpu", "pids", "blkio"] as const;
const depth = 5;

/**
 * Where a container's control groups are: of version 2, or a folder for each controller of version 1. Machines may have
 * both.
 */
export interface ControlGroup {
  readonly id: string;
  readonly unified: string | undefined;
  readonly byController: ReadonlyMap<string, string>;
}

/** Folders named by an id of 64 digits, or by an engine's payload, in whichever hierarchy they stand. */
export function findControlGroups(files: MachineFiles): ReadonlyMap<string, ControlGroup> {
  const found = new Map<string, { id: string; unified: string | undefined; byController: Map<string, string> }>();
  const of = (id: string) => {
    let group = found.get(id);
    if (!group) found.set(id, (group = { id, unified: undefined, byController: new Map() }));
    return group;
  };
  const search = (folder: string, left: number, use: (id: string, folder: string) => void) => {
    for (const name of files.list(folder)) {
      if (name.includes(".") && !/\.(slice|scope|service|payload\..*)$/.test(name) && !name.startsWith("lxc."))
        continue; // files of the group itself have a dot
      const path = `${folder}/${name}`;
      const id = /([0-9a-f]{64})(\.scope)?$/.exec(name)?.[1] ?? /^lxc\.payload\.(.+)$/.exec(name)?.[1];
      if (id !== undefined) use(id, path);
      else if (left > 0) search(path, left - 1, use);
    }
  };
  const unified = [base, `${base}/unified`].find((folder) => files.read(`${folder}/cgroup.controllers`) !== undefined);
  if (unified !== undefined)
    search(unified, depth, (id, folder) => {
      of(id).unified = folder;
    });
  for (const controller of controllers1)
    if (files.list(`${base}/${controller}`).length > 0)
      search(`${base}/${controller}`, depth, (id, folder) => of(id).byController.set(controller, folder));
  return found;
}

/**
 * Gives what the group tells; false where there is nothing (any more). On a machine with both hierarchies a controller
 * is in one of them, while version 2 tells processor time
 * without any (kernel: cgroup-v2.rst, "cpu.stat … exists whether the controller is enabled or not"): what it does not
 * tell, version 1 is asked for.
 */
export function readControlGroup(
  files: MachineFiles,
  group: ControlGroup,
  tags: Readonly<Record<string, string>>,
  emit: Emit,
): boolean {
  const told = new Set<string>();
  if (group.unified !== undefined) {
    readControlGroup2(
      (_controller, file) => files.read(`${group.unified}/${file}`),
      tags,
      (counter, all, value) => {
        told.add(counter);
        emit(counter, all, value);
      },
    );
  }
  let isThere = false;
  if (group.byController.size > 0) {
    const folder = (controller: string) =>
      group.byController.get(controller) ??
      (controller.startsWith("cpu") ? group.byController.get("cpu,cpuacct") : undefined);
    readControlGroup1(
      (controller, file) =>
        folder(controller) === undefined ? undefined : files.read(`${folder(controller)}/${file}`),
      tags,
      (counter, all, value) => {
        if (!told.has(counter)) emit(counter, all, value);
        isThere = true;
      },
    );
  }
  return isThere || told.size > 0;
}
