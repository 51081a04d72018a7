import { type ChildProcess, execFile, spawn } from "node:child_process";
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmdirSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readingsOf } from "../../../core/formats/testing/readings-of.ts";
import { projectRoot } from "../../project-root.ts";
import { machineFiles } from "../this-machine/machine-files.ts";
import { findControlGroups, readControlGroup } from "./control-groups.ts";

const run = promisify(execFile);
const id = "0123456789ab".padEnd(64, "e");

/** What this gathering and the collector tell of the group below `sys`, by the same keys. */
async function told(
  sys: string,
): Promise<{ readonly gathered: Record<string, number>; readonly collected: Record<string, number> }> {
  const files = machineFiles({ proc: "/proc", sys, root: "/" });
  const group = findControlGroups(files).get(id);
  const gathered = readingsOf((emit) => group && readControlGroup(files, group, {}, emit));
  const state = mkdtempSync(join(tmpdir(), "nubrel-groups-"));
  const { stdout } = await run("sh", [join(projectRoot, "collector/nubrel-collector.sh"), "try"], {
    env: { PATH: process.env["PATH"], NUBREL_SYS: sys, NUBREL_PROC: state, NUBREL_STATE: state },
  });
  rmSync(state, { recursive: true, force: true });
  const collected: Record<string, number> = {};
  for (const [, name = "", tags = "", value] of stdout.matchAll(/^(container_\w+)\{(.*)\} (\S+) \d+$/gm)) {
    const others = tags
      .split(",")
      .filter((tag) => !tag.startsWith("container="))
      .map((tag) => tag.replaceAll('"', ""))
      .sort()
      .join(",");
    const counter = name
      .replace("container_", "container.")
      .replace("throttled_time", "throttled-time")
      .replace(/(cpu|memory|paging|process|disk)_/, "$1.")
      .replace("-", "_");
    collected[`${counter}{${others}}`] = Number(value);
  }
  return { gathered, collected };
}

describe("a machine with both hierarchies", () => {
  test("version 2 tells processor time without any controller; what it lacks is read of version 1 (kernel: cgroup-v2.rst, cgroup-v1/)", async () => {
    const sys = mkdtempSync(join(tmpdir(), "nubrel-hybrid-"));
    const write = (path: string, text: string) => {
      mkdirSync(join(sys, "fs/cgroup", path, ".."), { recursive: true });
      writeFileSync(join(sys, "fs/cgroup", path), text);
    };
    write("unified/cgroup.controllers", "\n");
    write(`unified/system.slice/${id}/cpu.stat`, "usage_usec 3000000\nuser_usec 2000000\nsystem_usec 1000000\n");
    write(`cpu,cpuacct/system.slice/${id}/cpuacct.stat`, "user 999\nsystem 999\n");
    write(`cpu,cpuacct/system.slice/${id}/cpu.stat`, "nr_periods 5\nthrottled_time 1500000000\n");
    write(`memory/system.slice/${id}/memory.usage_in_bytes`, "4096\n");
    write(`memory/system.slice/${id}/memory.limit_in_bytes`, "8192\n");
    write(
      `memory/system.slice/${id}/memory.stat`,
      "pgfault 10\npgmajfault 4\nactive_anon 1\ninactive_anon 2\nactive_file 3\ninactive_file 4\ntotal_cache 1000\ntotal_rss 3096\n",
    );
    write(
      `blkio/system.slice/${id}/blkio.throttle.io_service_bytes_recursive`,
      "8:0 Read 512\n8:0 Write 1024\n8:16 Read 512\nTotal 2048\n",
    );
    write(`blkio/system.slice/${id}/blkio.throttle.io_serviced_recursive`, "8:0 Read 5\n8:0 Write 6\nTotal 11\n");
    write(`pids/system.slice/${id}/pids.current`, "7\n");
    const { gathered, collected } = await told(sys);
    const expected = {
      "container.cpu.time{mode=user}": 2,
      "container.cpu.time{mode=system}": 1,
      "container.cpu.throttled_time{}": 1.5,
      "container.memory.usage{}": 4096,
      "container.memory.limit{}": 8192,
      "container.memory.cache{}": 1000,
      "container.memory.rss{}": 3096,
      "container.memory.activity{state=active}": 4,
      "container.memory.activity{state=inactive}": 6,
      "container.paging.faults{type=major}": 4,
      "container.paging.faults{type=minor}": 6,
      "container.process.count{}": 7,
      "container.disk.io{direction=read}": 1024,
      "container.disk.io{direction=write}": 1024,
      "container.disk.operations{direction=read}": 5,
      "container.disk.operations{direction=write}": 6,
    };
    expect(gathered).toEqual(expected);
    expect(collected).toEqual(expected);
    rmSync(sys, { recursive: true, force: true });
  });
});

// The kernel that runs the tests may have version 1, version 2, or both: a real group of it with a process that holds
// memory.
const base = "/sys/fs/cgroup";
const roots = ["memory", "cpu", "cpuacct", "pids", "blkio", "unified"]
  .map((name) => `${base}/${name}`)
  .filter((path) => existsSync(path))
  .concat(existsSync(`${base}/cgroup.controllers`) ? [base] : []);
const mayMake =
  process.getuid?.() === 0 &&
  roots.length > 0 &&
  roots.every((path) => {
    try {
      accessSync(path, constants.W_OK);
      mkdirSync(`${path}/${id}`);
      rmdirSync(`${path}/${id}`);
      return true;
    } catch {
      return false; // read-only in this container
    }
  });

describe.skipIf(!mayMake)("a group of this machine's kernel", () => {
  const held = 40_000_000;
  let child: ChildProcess;
  beforeAll(async () => {
    for (const root of roots) mkdirSync(`${root}/${id}`);
    child = spawn(
      "sh",
      [
        "-c",
        `read go; exec node -e 'const held = Buffer.alloc(${held}, 1); console.log("held"); setInterval(() => held, 1000)'`,
      ],
      { stdio: ["pipe", "pipe", "ignore"] },
    );
    for (const root of roots) writeFileSync(`${root}/${id}/cgroup.procs`, String(child.pid));
    child.stdin?.write("\n");
    await new Promise((resolve) => child.stdout?.once("data", resolve));
  });
  afterAll(async () => {
    const ended = new Promise((resolve) => child.once("exit", resolve));
    child.kill("SIGKILL");
    await ended;
    for (
      let tries = 0;
      tries < 100 && !roots.every((root) => readFileSync(`${root}/${id}/cgroup.procs`, "utf8") === "");
      tries++
    )
      await new Promise((resolve) => setTimeout(resolve, 20));
    for (const root of roots) rmdirSync(`${root}/${id}`);
  });
  test("its memory, processes and processor time are told by gathering and collector alike", async () => {
    for (const readings of Object.values(await told("/sys"))) {
      expect(readings["container.cpu.time{mode=user}"]).toBeGreaterThan(0);
      if (existsSync(`${base}/memory`)) {
        const resident =
          Number(/^RssAnon:\s+(\d+) kB/m.exec(readFileSync(`/proc/${child.pid}/status`, "utf8"))?.[1]) * 1024;
        expect(readings["container.memory.rss{}"]).toBeGreaterThan(held);
        expect(Math.abs((readings["container.memory.rss{}"] as number) - resident) / resident).toBeLessThan(0.2);
        expect(readings["container.paging.faults{type=minor}"]).toBeGreaterThan(held / 65_536 / 4);
      }
      if (existsSync(`${base}/pids`)) expect(readings["container.process.count{}"]).toBeGreaterThanOrEqual(1);
    }
  });
});
