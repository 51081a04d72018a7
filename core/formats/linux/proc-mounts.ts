/** A mounted filesystem that holds data. */
export interface Mount {
  readonly device: string;
  readonly mountpoint: string;
  readonly type: string;
  readonly mode: "ro" | "rw";
  readonly options: readonly string[];
}

/**
 * Filesystems on disks of this machine. Everything else in /proc/mounts is a view of the kernel, memory, or another
 * machine's.
 */
const onDisks = new Set([
  "ext2",
  "ext3",
  "ext4",
  "xfs",
  "btrfs",
  "zfs",
  "f2fs",
  "bcachefs",
  "jfs",
  "reiserfs",
  "nilfs2",
  "ntfs",
  "ntfs3",
  "vfat",
  "exfat",
  "hfsplus",
]);

/**
 * /proc/mounts (proc(5)): the filesystems on this machine's disks, each device once, by its first mountpoint.
 * Spaces and the like in a path are octal escapes (getmntent(3)).
 */
export function parseProcMounts(text: string): readonly Mount[] {
  const seen = new Set<string>();
  const mounts: Mount[] = [];
  for (const line of text.split("\n")) {
    const [device, mountpoint, type, options] = line.split(" ");
    if (device === undefined || mountpoint === undefined || type === undefined || options === undefined) continue;
    if (!onDisks.has(type) || seen.has(device)) continue;
    seen.add(device);
    const all = options.split(",");
    mounts.push({
      device: unescapePath(device),
      mountpoint: unescapePath(mountpoint),
      type,
      mode: all.includes("ro") ? "ro" : "rw",
      options: all,
    });
  }
  return mounts;
}

function unescapePath(text: string): string {
  return text.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(Number.parseInt(octal, 8)));
}
