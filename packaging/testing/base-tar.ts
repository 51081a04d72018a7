import { execFile, execFileSync } from "node:child_process";
import { rmSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";

/** A small Debian as `base.tar` in a folder, for images that are built without a registry. */
export async function makeBaseTar(folder: string): Promise<string> {
  const base = join(folder, "base");
  await promisify(execFile)("debootstrap", ["--variant=minbase", "trixie", base, "http://deb.debian.org/debian"], {
    maxBuffer: 1e7,
  });
  const tar = join(folder, "base.tar");
  execFileSync("tar", ["--directory", base, "--create", "--file", tar, "."]);
  rmSync(base, { recursive: true });
  return tar;
}
