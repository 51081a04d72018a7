import { afterAll, beforeAll, expect, test, vi } from "vitest";
import type { WatchingView } from "../../../core/api/watching.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";

// This machine's own kernel is the counterpart.
let it: OwnedServer;
const view = async () => (await it.owner.ask("GET", "/api/planning/watching")).body as WatchingView;
beforeAll(async () => {
  it = await ownedServer({ NUBREL_GATHER_MS: "5000" });
  // What the first gathering takes is no measure.
  await vi.waitFor(
    async () => {
      const [own] = (await view()).sources;
      expect(own?.series).toBeGreaterThan(20);
      expect(own?.serverShare).not.toBeNull();
    },
    { timeout: 30_000, interval: 300 },
  );
}, 60_000);
afterAll(() => it.close());

const unused = ({ sources: [own] }: WatchingView) => own?.unused.map(({ counter }) => counter) ?? [];

test("what this machine's source costs, and which of its counters nobody needs", async () => {
  const before = await view();
  const [own] = before.sources;
  expect(own).toMatchObject({ machine: "vault", kind: "this-machine", everySeconds: 5 });
  expect((own?.samplesPerDay ?? 0) / ((own?.series ?? 1) * 17_280)).toBeCloseTo(1, 9);
  expect(own?.serverShare).toBeGreaterThan(0);
  expect(own?.serverShare).toBeLessThan(0.5);
  expect(before.wattHoursPerDay).toBeNull();
  expect(before.formula).toMatch(/vault/);
  expect(unused(before)).toEqual(
    expect.arrayContaining(["system.memory.usage", "system.paging.faults", "system.uptime"]),
  );
  // Looked at once, or named by a rule, it is needed.
  const to = Date.now();
  await it.owner.ask("POST", "/api/readings", {
    window: { from: to - 60_000, to },
    sentences: { a: { counter: "system.memory.usage", lines: "together" } },
  });
  await it.owner.ask("POST", "/api/recordings", {
    name: "starts",
    everySeconds: 60,
    sentences: { a: { counter: "system.uptime", lines: "together", combine: "max" } },
  });
  const after = unused(await view());
  expect(after).not.toContain("system.memory.usage");
  expect(after).not.toContain("system.uptime");
  expect(after).toContain("system.paging.faults");
});

test("what nobody needs is left in one step, and gathered no more", async () => {
  const { sources } = await view();
  const id = sources[0]?.id as number;
  const answer = await it.owner.ask("POST", `/api/planning/watching/${id}/leave`, {
    counters: ["system.paging.faults"],
  });
  expect(answer.status).toBe(200);
  const source = (await it.owner.ask("GET", `/api/sources/${id}`)).body;
  expect(source.take).toEqual([{ do: "leave", counter: "system.paging.faults" }]);
  expect((await it.owner.ask("POST", "/api/planning/watching/9999/leave", { counters: ["x"] })).status).toBe(404);
  expect((await it.owner.ask("POST", `/api/planning/watching/${id}/leave`, { counters: [] })).status).toBe(422);
});
