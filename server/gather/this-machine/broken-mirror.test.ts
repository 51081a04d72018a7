import { execFile } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, expect, test } from "vitest";
import { parseProcMounts } from "../../../core/formats/linux/proc-mounts.ts";
import { projectRoot } from "../../project-root.ts";
import { MachineTools } from "./machine-tools.ts";

// A real mirror of two loop files loses one of them. It takes root, the kernel's btrfs and its tools; elsewhere the
// test is left out and says so.
const run = promisify(execFile);
const said = async (program: string, ...args: readonly string[]) => (await run(program, [...args])).stdout.trim();
let folder = "";
const loops: string[] = [];
let why = "";
const mountpoint = () => join(folder, "mirror");

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-mirror-"));
  mkdirSync(mountpoint());
  try {
    for (const name of ["a", "b"]) {
      writeFileSync(join(folder, name), "");
      truncateSync(join(folder, name), 256 * 1_048_576);
      loops.push(await said("losetup", "--find", "--show", join(folder, name)));
    }
    await run("mkfs.btrfs", ["--quiet", "--data", "raid1", "--metadata", "raid1", ...loops]);
    await run("mount", ["-t", "btrfs", loops[0] as string, mountpoint()]);
  } catch (error) {
    why = String((error as Error).message)
      .split("\n")
      .slice(-2)
      .join(" ");
  }
}, 30_000);
afterAll(async () => {
  await run("umount", [mountpoint()]).catch(() => {});
  for (const loop of loops) await run("losetup", ["--detach", loop]).catch(() => {});
  rmSync(folder, { recursive: true, force: true });
});

/** What this machine's own gathering, and the collector under the system's shell, tell of the mirror. */
async function told(): Promise<{ readonly gathered: Map<string, number>; readonly collected: Map<string, number> }> {
  const mounts = parseProcMounts(readFileSync("/proc/self/mounts", "utf8")).filter(
    (mount) => mount.mountpoint === mountpoint(),
  );
  // As the server itself asks, without the few that go by way of root's tools.
  const tools = new MachineTools(async (program, ...args) =>
    program === "btrfs" ? { code: 0, out: await said(program, ...args), err: "" } : undefined,
  );
  tools.take(0, mounts);
  const gathered = new Map<string, number>();
  await expect
    .poll(
      () =>
        tools
          .take(1, mounts)
          .map(({ counter, tags, value }) =>
            gathered.set(`${counter} ${tags["why"] ?? tags["state"] ?? tags["type"] ?? ""}`.trim(), value),
          ).length,
      { timeout: 10_000 },
    )
    .toBeGreaterThan(0);
  mkdirSync(join(folder, "proc/self"), { recursive: true });
  writeFileSync(
    join(folder, "proc/self/mounts"),
    readFileSync("/proc/self/mounts", "utf8")
      .split("\n")
      .filter((line) => line.includes(mountpoint()))
      .join("\n"),
  );
  const { stdout } = await run("sh", [join(projectRoot, "collector/nubrel-collector.sh"), "try"], {
    env: {
      PATH: process.env["PATH"],
      NUBREL_PROC: join(folder, "proc"),
      NUBREL_SYS: join(folder, "proc"),
      NUBREL_STATE: join(folder, "state"),
    },
  });
  const collected = new Map(
    [...stdout.matchAll(/^(storage_\w+)\{(.*)\} (\S+) \d+$/gm)].map(([, name = "", tags = "", value]) => [
      `${name.replace("storage_pool_", "storage.pool.").replace("storage_device_errors", "storage.device.errors")} ${/(?:why|state|type)="([^"]+)"/.exec(tags)?.[1] ?? ""}`.trim(),
      Number(value),
    ]),
  );
  return { gathered, collected };
}

test("a btrfs mirror tells what can be written to it, and that it lost a disk", async ({ skip }) => {
  if (why !== "") skip(`no mirror can be made here: ${why}`);
  writeFileSync(join(mountpoint(), "recording"), Buffer.alloc(20 * 1_048_576, 7));
  await run("sync", ["--file-system", mountpoint()]);
  const whole = await told();
  for (const readings of Object.values(whole)) {
    expect(Object.fromEntries(readings)).toMatchObject({
      "storage.pool.healthy": 1,
      "storage.pool.trouble missing device": 0,
      "storage.pool.trouble degraded": 0,
      "storage.pool.trouble read-only": 0,
      "storage.pool.trouble device errors": 0,
    });
    // df (coreutils) is the oracle of what is free: it knows nothing of copies.
    const free = Number((await said("df", "-B1", "--output=avail", mountpoint())).split("\n")[1]);
    expect(readings.get("storage.pool.usage free")).toBe(free);
    expect(readings.get("storage.pool.usage used")).toBeGreaterThan(20 * 1_048_576);
    expect(readings.get("storage.pool.usage used")).toBeLessThan(22 * 1_048_576);
    expect(readings.get("storage.pool.limit")).toBeLessThan(256 * 1_048_576);
  }
  await run("umount", [mountpoint()]);
  await run("losetup", ["--detach", loops.pop() as string]);
  await run("btrfs", ["device", "scan", "--forget", loops[0] as string]);
  await run("mount", ["-t", "btrfs", "-o", "degraded", loops[0] as string, mountpoint()]);
  const broken = await told();
  for (const readings of Object.values(broken)) {
    expect(Object.fromEntries(readings)).toMatchObject({
      "storage.pool.healthy": 0,
      "storage.pool.trouble missing device": 1,
      "storage.pool.trouble degraded": 1,
      "storage.pool.trouble device errors": 0,
    });
    expect(readings.get("storage.pool.usage used")).toBeLessThan(22 * 1_048_576);
  }
  await run("umount", [mountpoint()]);
  await run("mount", ["-t", "btrfs", "-o", "degraded,ro", loops[0] as string, mountpoint()]);
  for (const readings of Object.values(await told())) expect(readings.get("storage.pool.trouble read-only")).toBe(1);
}, 60_000);
