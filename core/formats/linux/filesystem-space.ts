import type { Emit } from "../../counters/counter.ts";
import type { Mount } from "./proc-mounts.ts";

/** What statfs(2) answers: sizes in blocks of `bsize` bytes. */
export interface Statfs {
  readonly bsize: number;
  readonly blocks: number;
  readonly bfree: number;
  readonly bavail: number;
  readonly files: number;
  readonly ffree: number;
}

/** Space by state: used, free for everybody (`bavail`) and reserved for root (`bfree − bavail`) add up to the size. */
export function emitFilesystem(mount: Mount, space: Statfs, emit: Emit): void {
  const tags = { device: mount.device, mountpoint: mount.mountpoint, type: mount.type };
  if (!(space.blocks > 0)) return;
  emit("system.filesystem.limit", tags, space.blocks * space.bsize);
  emit("system.filesystem.usage", { ...tags, state: "used" }, (space.blocks - space.bfree) * space.bsize);
  emit("system.filesystem.usage", { ...tags, state: "free" }, space.bavail * space.bsize);
  emit("system.filesystem.usage", { ...tags, state: "reserved" }, (space.bfree - space.bavail) * space.bsize);
  if (space.files > 0) {
    emit("system.filesystem.inodes", { ...tags, state: "used" }, space.files - space.ffree);
    emit("system.filesystem.inodes", { ...tags, state: "free" }, space.ffree);
  }
}
