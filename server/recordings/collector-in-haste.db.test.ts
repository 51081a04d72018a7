import { spawn } from "node:child_process";
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { projectRoot } from "../project-root.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";
import type { Store } from "../store/store.ts";

// The collector itself, by two shells, against a server: it gathers every minute, and is away when the run begins.
const shells = [
  ["dash", []],
  ["busybox", ["sh"]],
].filter(([shell]) => existsSync(`/usr/bin/${shell}`) || existsSync(`/bin/${shell}`)) as [string, string[]][];
const script = join(projectRoot, "collector/nubrel-collector.sh");
let it: OwnedServer;
let folder: string;
beforeAll(async () => {
  it = await ownedServer();
  folder = mkdtempSync(join(tmpdir(), "nubrel-haste-"));
}, 60_000);
afterAll(async () => {
  await it.close();
  rmSync(folder, { recursive: true, force: true });
});

test.each(shells)(
  "%s: learns of a run in the answer, gathers that alone every second, and falls back",
  async (shell, first) => {
    const ask = (method: string, path: string, body?: unknown) => it.owner.ask(method, `/api${path}`, body);
    const machine = `lamp-${shell}`;
    const { body: source } = await ask("POST", "/sources", {
      kind: "collector",
      name: machine,
      machine,
      intervalMs: 60_000,
    });
    const { body: token } = await ask("POST", "/tokens", { name: machine, scope: "write", sourceId: source.id });
    const { store } = it.server as unknown as { store: Store };
    const series = (counter: string) => store.series.ofCounter(counter).find(({ tags }) => tags["machine"] === machine);
    const secondsOf = async (counter: string, fromMs: number) => {
      const [column] = await store.read([series(counter)?.id as number], fromMs, Date.now() + 5000);
      return [...(column?.timeMs ?? [])].map((ms) => ms / 1000);
    };
    const child = spawn(shell, [...first, script, "run"], {
      env: {
        ...process.env,
        ...{ NUBREL_STATE: join(folder, shell), NUBREL_TOKEN: token.token, NUBREL_ADDRESS: it.server.address },
        ...{ NUBREL_INTERVAL: "60", NUBREL_DRIVES_EVERY: "1000", NUBREL_SLOW_EVERY: "1000" },
      },
      detached: true,
    });
    const ended = new Promise((resolve) => child.once("exit", resolve));
    try {
      await vi.waitFor(() => expect(series("system.cpu.time")).toBeDefined(), { timeout: 20_000, interval: 200 });
      const recording = {
        name: machine,
        everySeconds: 1,
        sentences: [{ counter: "system.cpu.time", where: [{ tag: "machine", is: [machine] }] }],
      };
      const { body: made } = await ask("POST", "/recordings", recording);
      const { body: forecast } = await ask("POST", "/recordings/forecast", { ...recording, forSeconds: 40 });
      expect(forecast.sources).toMatchObject([{ name: machine, everySeconds: 1, why: null }]);
      const { body: run } = await ask("POST", `/recordings/${made.id}/runs`, { forSeconds: 40 });
      // It is away until a few seconds later: started anew, it sends at once, and hears of the run.
      process.kill(-(child.pid as number), "SIGTERM");
      await ended;
      const again = spawn(shell, [...first, script, "run"], {
        env: {
          ...process.env,
          ...{ NUBREL_STATE: join(folder, shell), NUBREL_TOKEN: token.token, NUBREL_ADDRESS: it.server.address },
          ...{ NUBREL_INTERVAL: "60", NUBREL_DRIVES_EVERY: "1000", NUBREL_SLOW_EVERY: "1000" },
        },
        detached: true,
      });
      try {
        await vi.waitFor(
          async () => expect((await secondsOf("system.cpu.time", run.startedAtMs)).length).toBeGreaterThan(10),
          { timeout: 50_000, interval: 500 },
        );
        const seconds = (await secondsOf("system.cpu.time", run.startedAtMs)).slice(1);
        const distances = seconds.slice(1).map((second, i) => second - (seconds[i] as number));
        // A machine that is busy with other tests may miss some.
        expect(distances.filter((distance) => distance === 1).length).toBeGreaterThanOrEqual(distances.length * 0.6);
        expect((await secondsOf("system.memory.limit", run.startedAtMs)).length).toBeLessThanOrEqual(2);
        await vi.waitFor(async () => expect((await ask("GET", "/runs")).body).toEqual([]), {
          timeout: 60_000,
          interval: 500,
        });
        // It is told no more, and falls back.
        await vi.waitFor(() => expect(existsSync(join(folder, shell, "faster"))).toBe(false), {
          timeout: 30_000,
          interval: 500,
        });
      } finally {
        process.kill(-(again.pid as number), "SIGTERM");
      }
    } finally {
      if (child.exitCode === null) process.kill(-(child.pid as number), "SIGTERM");
    }
  },
  120_000,
);
