import { statfs } from "node:fs/promises";

/** How much of the disk below a folder is free, and how large it is, in bytes; undefined where that cannot be told. */
export type FreeSpace = (folder: string) => Promise<{ readonly free: number; readonly size: number } | undefined>;

/** The disk is nearly full with less than this free, or less than this share of it. */
const leastFreeBytes = 500e6;
const leastFreeShare = 0.02;

/** Whether the disk below a folder is nearly full; false where no folder is known. */
export async function isNearlyFull(folder: string | undefined, freeOf: FreeSpace = freeSpace): Promise<boolean> {
  const space = folder === undefined ? undefined : await freeOf(folder);
  return space !== undefined && (space.free < leastFreeBytes || space.free < space.size * leastFreeShare);
}

const freeSpace: FreeSpace = async (folder) => {
  const found = await statfs(folder).catch(() => undefined);
  return found && { free: found.bavail * found.bsize, size: found.blocks * found.bsize };
};
