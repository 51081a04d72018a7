import { setTimeout as delay } from "node:timers/promises";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { keepCluster } from "./keep-cluster.mjs";
import { keepServer } from "./keep-server.mjs";
import { isAllowed } from "./root-tools.mjs";

describe("keeping PostgreSQL", () => {
  test("it is started again with growing pauses, and what it says is told; afterwards it is left alone", async () => {
    const told: unknown[] = [];
    let tries = 0;
    const waited: number[] = [];
    let runs = false;
    const end = keepCluster(
      {
        isRunning: () => runs,
        start: async () => {
          runs = ++tries === 4;
          return runs ? undefined : "FATAL: no room";
        },
      },
      (news) => told.push(news),
      // What is waited for is asked: a timer that begins late under load ends early.
      {
        everyMs: 2,
        pauseMs: 20,
        wait: (ms, value, options) => {
          waited.push(ms as number);
          return delay(1, value, options);
        },
      },
    );
    await vi.waitFor(() => expect(told).toHaveLength(4), { timeout: 5000 });
    expect(told).toEqual([
      { tries: 1, said: "FATAL: no room" },
      { tries: 2, said: "FATAL: no room" },
      { tries: 3, said: "FATAL: no room" },
      { tries: 4, said: null },
    ]);
    expect(waited.filter((ms) => ms !== 2)).toEqual([20, 40, 80]);
    await end();
    runs = false;
    expect(tries).toBe(4);
  });
});

describe("keeping the server", () => {
  let folder: string;
  const script = (text: string) => {
    const file = join(folder, `${Math.abs(text.split("").reduce((h, c) => (h * 31 + c.charCodeAt(0)) | 0, 7))}.mjs`);
    writeFileSync(file, text);
    return { command: [process.execPath, file], env: {}, wantsStop: () => false, started: () => {} };
  };
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), "nubrel-keep-"));
  });
  afterAll(() => rmSync(folder, { recursive: true }));
  const dies = `process.send({ kind: "ready" }, () => process.kill(process.pid, "SIGKILL"));`;

  test("five deaths in ten minutes end it with a sentence", async () => {
    const started = vi.fn();
    await expect(keepServer({ ...script(dies), started }, { againAfterMs: 1 })).rejects.toThrow(
      "The server died 5 times within ten minutes (the last time it was ended by SIGKILL)",
    );
    expect(started).toHaveBeenCalledTimes(5);
  });
  test("deaths that are further apart do not", async () => {
    let nowMs = 0;
    let times = 0;
    const code = await keepServer(
      { ...script(dies), started: () => void times++, wantsStop: () => times > 9 },
      { againAfterMs: 1, nowMs: () => (nowMs += 130_000) },
    );
    expect([code, times]).toEqual([0, 10]);
  });
  test("the next one is told why the one before ended", async () => {
    const code = await keepServer(
      script(
        `process.send({ kind: "ready" }, () => process.exit(process.env.NUBREL_RESTARTED === "it ended with code 7" ? 0 : 7));`,
      ),
      { againAfterMs: 1 },
    );
    expect(code).toBe(0);
  });
  test.each([
    [2, 1],
    [1, 1],
    [0, 0],
  ])("one that ends with %i before it serves is not started again", async (code, expected) => {
    const started = vi.fn();
    expect(await keepServer({ ...script(`process.exit(${code})`), started }, { againAfterMs: 1 })).toBe(expected);
    expect(started).toHaveBeenCalledOnce();
  });
});

describe("programs that are run with root's rights", () => {
  test.each([
    ["smartctl", ["--json=c", "--nocheck=standby", "--health", "--attributes", "--device", "sat", "/dev/sda"]],
    ["smartctl", ["--scan", "--json"]],
    ["btrfs", ["filesystem", "usage", "-b", "/srv/data with blanks"]],
    ["virsh", ["-r", "domstats", "--raw"]],
  ])("%s %j may", (program, args) => expect(isAllowed(program, args)).toBe(true));
  test.each([
    ["sh", ["-c", "id"]],
    ["/usr/sbin/smartctl", ["--scan", "--json"]],
    ["smartctl", ["--json=c", "--nocheck=standby", "--health", "--attributes", "--device", "sat", "/etc/shadow"]],
    [
      "smartctl",
      ["--json=c", "--nocheck=standby", "--health", "--attributes", "--device", "sat", "/dev/../etc/shadow\n"],
    ],
    ["smartctl", ["--json=c", "--nocheck=standby", "--health", "--attributes", "--device", "-s", "/dev/sda"]],
    ["btrfs", ["filesystem", "usage", "-b", "--help"]],
    ["virsh", ["domstats", "--raw"]],
    ["virsh", ["-r", "domstats", "--raw", "x"]],
    ["virsh", "-r domstats --raw"],
    [["virsh"], ["-r", "domstats", "--raw"]],
  ])("%j %j may not", (program, args) => expect(isAllowed(program as string, args as string[])).toBe(false));
});
