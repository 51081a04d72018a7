import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { isContained } from "../../transport/contained.ts";
import { machineFiles, thisMachine } from "./machine-files.ts";
import { unseenOf } from "./unseen.ts";

// proc(5): /proc/net is a link to self/net, /proc/self a link to whoever reads; in a container with the host's /proc
// mounted they lead to the container's own network.
const folder = mkdtempSync(join(tmpdir(), "nubrel-contained-"));
const write = (path: string, text: string) => {
  mkdirSync(dirname(join(folder, path)), { recursive: true });
  writeFileSync(join(folder, path), text);
};
beforeAll(() => {
  write("proc/1/net/dev", "the host's network");
  write("proc/1/mounts", "the host's mounts");
  write("proc/77/net/dev", "the container's network");
  write("proc/77/mounts", "the container's mounts");
  write("proc/77/smaps", "its own pages");
  write("proc/meminfo", "the host's memory");
  symlinkSync("77", join(folder, "proc/self"));
  symlinkSync("self/net", join(folder, "proc/net"));
  symlinkSync("self/mounts", join(folder, "proc/mounts"));
});
afterAll(() => rmSync(folder, { recursive: true }));

test("with the host's /proc mounted, network and mounts are the host's", () => {
  const files = machineFiles({ proc: join(folder, "proc"), sys: "/sys", root: "/" });
  expect(files.read("/proc/net/dev")).toBe("the host's network");
  expect(files.read("/proc/mounts")).toBe("the host's mounts");
  expect(files.read("/proc/self/mounts")).toBe("the host's mounts");
  expect(files.read("/proc/meminfo")).toBe("the host's memory");
  expect(files.read("/proc/self/smaps")).toBe("its own pages");
});

test("a machine's own /proc is read as it is", () => {
  expect(machineFiles().read("/proc/self/stat")).toContain(`${process.pid} (`);
});

test("what is not seen is said in a container alone, and less of it with each folder that is mounted", () => {
  expect(isContained({ container: "oci" })).toBe(true);
  expect(unseenOf(thisMachine, false)).toEqual([]);
  const mounted = { proc: "/host/proc", sys: "/host/sys", root: "/host/root" };
  expect(unseenOf(thisMachine, true).join(" ")).toMatch(/NUBREL_PROC=.*NUBREL_ROOT=.*NUBREL_SYS=/);
  expect(unseenOf({ ...mounted, proc: "/proc" }, true, ["watch.example"])[0]).toContain("NUBREL_PROC=/host/proc");
  expect(unseenOf(mounted, true)[0]).toContain("NUBREL_NAMES");
  expect(unseenOf(mounted, true, ["watch.example"])).toEqual([expect.stringContaining("with a collector there")]);
});
