import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { FitAnswer, FitBody, FitLine } from "../../../core/api/fit.ts";
import { batchOf } from "../../../core/series/batch.ts";
import { gaussian, seeded } from "../../../core/testing/random.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";
import { level, total } from "../../testing/new-series.ts";

// Three days of hive (8 processors, 32 GiB, guests web and mail) and stream (4 processors, 8 GiB, containers relay and
// chat), by the five minutes. web works by day, relay by night; mail was given 4 processors and never used one. stream
// draws 40 W idle, and 4 W more while relay works.
const minute = 60_000;
const day = 86_400_000;
const until = Math.floor(Date.now() / day) * day;
const from = until - 3 * day;
const gib = 2 ** 30;
const isDay = (at: number) => (at % day) / day >= 0.3 && (at % day) / day < 0.8;

let it: OwnedServer;
const rows: { readonly guest: string; readonly at: number; readonly used: number }[] = [];

beforeAll(async () => {
  it = await ownedServer();
  const { store } = it.server as unknown as { store: import("../../store/store.ts").Store };
  const cpu = (machine: string, mode: string) => total("system.cpu.time", { machine, mode });
  const resolved = (await store.series.resolve([
    total("guest.cpu.time", { machine: "hive", guest: "web" }),
    total("guest.cpu.time", { machine: "hive", guest: "mail" }),
    total("container.cpu.time", { machine: "stream", container: "relay", mode: "user" }),
    total("container.cpu.time", { machine: "stream", container: "chat", mode: "user" }),
    cpu("hive", "user"),
    cpu("hive", "idle"),
    cpu("stream", "user"),
    cpu("stream", "idle"),
    level("guest.memory.usage", { machine: "hive", guest: "web" }),
    level("guest.memory.usage", { machine: "hive", guest: "mail" }),
    level("container.memory.usage", { machine: "stream", container: "relay" }),
    level("container.memory.usage", { machine: "stream", container: "chat" }),
    level("system.memory.usage", { machine: "hive", state: "used" }),
    level("system.memory.limit", { machine: "hive" }),
    level("system.memory.usage", { machine: "stream", state: "used" }),
    level("system.memory.limit", { machine: "stream" }),
    level("guest.cpu.count", { machine: "hive", guest: "mail" }, "{cpu}"),
    level("hw.host.power", { machine: "stream", sensor: "whole" }, "W"),
    total("guest.disk.operations", { machine: "hive", guest: "web" }),
    total("container.disk.operations", { machine: "stream", container: "relay" }),
  ])) as unknown as number[];
  const random = seeded(3);
  const sums = new Float64Array(8);
  for (let begin = from - 5 * minute; begin < until + 5 * minute; begin += day / 2) {
    const batch: [number, number, number][] = [];
    for (let at = begin; at < Math.min(begin + day / 2, until + 10 * minute); at += 5 * minute) {
      sums.forEach((sum, i) => {
        batch.push([resolved[i] as number, at, sum]);
      });
      const web = (isDay(at) ? 4 : 0.5) + 0.1 * Math.abs(gaussian(random));
      const relay = (isDay(at) ? 0.2 : 2.5) + 0.1 * Math.abs(gaussian(random));
      const used = [web, 0.3, relay, 0.1];
      const busy = [web + 0.3 + 0.2, 8 - (web + 0.5), relay + 0.1 + 0.1, 4 - (relay + 0.2)];
      [...used, ...busy].forEach((rate, i) => {
        sums[i] = (sums[i] as number) + rate * 300;
      });
      for (const [guest, value] of [
        ["web", web],
        ["mail", 0.3],
        ["relay", relay],
        ["chat", 0.1],
      ] as const)
        if (at >= from && at < until) rows.push({ guest, at, used: value });
      [6, 2, 1.5, 0.5, 10, 32, 3, 8].forEach((amount, i) => {
        batch.push([resolved[8 + i] as number, at, amount * gib]);
      });
      batch.push([resolved[16] as number, at, 4], [resolved[17] as number, at, relay > 1 ? 44 : 40]);
      const seconds = (at - from) / 1000 + 600;
      batch.push([resolved[18] as number, at, 200 * seconds], [resolved[19] as number, at, 100 * seconds]);
    }
    await store.write(batchOf(batch));
  }
  await it.owner.ask("PUT", "/api/tariffs", [
    { name: "rack", currency: "EUR", zone: "UTC", from: "2020-01-01", price: 0.25 },
  ]);
}, 120_000);
afterAll(() => it.close());

const body: FitBody = { window: { from, to: until }, percentile: 0.95, headroom: 0.2 };
async function lines(more: Partial<FitBody> = {}): Promise<readonly FitLine[]> {
  const { body: text } = await it.owner.ask("POST", "/api/planning/fit", { ...body, ...more });
  return (text as string)
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line) as FitLine);
}
const answered = async (more: Partial<FitBody> = {}) => (await lines(more)).at(-1) as FitAnswer;

describe("would they fit on fewer machines?", () => {
  test("stream can be switched off, proven, with what it saves: its idle power, not what its containers take along", async () => {
    const answer = await answered();
    expect(answer).toMatchObject({ fits: true, proven: true, bound: 1, canBeOff: ["stream"] });
    expect(answer.moves).toEqual([
      { guest: "stream chat", from: "stream", to: "hive" },
      { guest: "stream relay", from: "stream", to: "hive" },
    ]);
    expect((answer.saves.wattHoursPerDay as number) / (40 * 24)).toBeCloseTo(1, 1);
    expect(
      (answer.saves.costPerYear as number) / (((answer.saves.wattHoursPerDay as number) / 1000) * 365 * 0.25),
    ).toBeCloseTo(1, 6);
    expect(answer.words[0]).toBe(
      "stream can be switched off: everything fits on 1 of 2 hosts with 20 % of each host kept free, in 95 of 100 moments, and no fewer would do; 2 of 4 move.",
    );
  });
  test("peaks are those at the same time, as plain rows have them (SQL: percentile_cont over sums by moment)", async () => {
    const answer = await answered();
    const { rows: found } = await it.db.database.query<{ p95: number; together: number; apart: number }>(
      `with used as (select * from json_to_recordset($1::json) as u(guest text, at float8, used float8)),
            moments as (select at, sum(used) + 0.2 as all_used from used group by at)
       select (select percentile_cont(0.95) within group (order by all_used) from moments) as p95,
              (select max(all_used) from moments) as together,
              (select sum(most) from (select max(used) as most from used group by guest) as each) as apart`,
      [JSON.stringify(rows)],
    );
    const expected = found[0] as (typeof found)[0];
    const [processor] = answer.hosts.find(({ machine }) => machine === "hive")?.peak ?? [];
    expect((processor?.needed as number) / expected.p95).toBeCloseTo(1, 3);
    expect((processor?.most as number) / expected.together).toBeCloseTo(1, 3);
    // Their own peaks, added, would be more by far.
    expect(expected.apart).toBeGreaterThan(1.4 * expected.together);
  });
  test("what stays, what must not meet, and other hardware are heeded", async () => {
    expect((await answered({ keep: ["relay"] })).canBeOff).toEqual([]);
    expect((await answered({ apart: [["web", "relay"]] })).moves).toEqual([]);
    const small = await answered({ hosts: [{ machine: "small box", processors: 2, memory: 4 * gib }] });
    expect(small).toMatchObject({ fits: false, proven: true });
    const large = await answered({ hosts: [{ machine: "large box", processors: 16, memory: 64 * gib }] });
    expect(large).toMatchObject({ fits: true, canBeOff: ["hive", "stream"] });
    expect(large.hosts.map(({ machine, guests }) => [machine, guests.length])).toEqual([["large box", 4]]);
    expect((await answered({ headroom: 60 })).canBeOff).toEqual([]);
  });
  test("a host whose processors are faster needs fewer of them", async () => {
    const settings = (await it.owner.ask("GET", "/api/planning/settings")).body;
    const put = (speeds: object) => it.owner.ask("PUT", "/api/planning/settings", { ...settings, speeds });
    await put({ stream: 1.5 });
    const { hosts } = await answered({ hosts: ["hive"] });
    await put({});
    const [processor] = hosts[0]?.peak ?? [];
    const slow = (await answered({ hosts: ["hive"] })).hosts[0]?.peak[0];
    expect((processor?.needed as number) - (slow?.needed as number)).toBeGreaterThan(0.1);
  });
  test("operations of disks bound a host whose disks take only so many, and are told of all", async () => {
    const settings = (await it.owner.ask("GET", "/api/planning/settings")).body;
    const put = (diskOperations: object) =>
      it.owner.ask("PUT", "/api/planning/settings", { ...settings, diskOperations });
    const disk = ({ hosts }: FitAnswer, name: string) =>
      hosts.find(({ machine }) => machine === name)?.peak.find(({ resource }) => resource === "disk operations");
    expect(disk(await answered(), "hive")).toMatchObject({ needed: expect.closeTo(300, 6), capacity: null });
    await put({ hive: 370 });
    const bound = await answered();
    await put({});
    // 300 are more than the 296 that stay after a fifth is kept free.
    expect(bound).toMatchObject({ fits: true, canBeOff: [] });
    expect(disk(bound, "hive")).toMatchObject({ needed: expect.closeTo(200, 6), capacity: 370 });
    const small = { machine: "box", processors: 16, memory: 64 * gib, diskOperations: 250 };
    expect(await answered({ hosts: [small] })).toMatchObject({ fits: false, proven: true });
  });
  test("guests that were given much more than they ever used are listed with what would do", async () => {
    const mail = (await answered()).guests.find(({ guest }) => guest === "hive mail");
    expect(mail?.would).toEqual([{ resource: "processor", unit: "{cpu}", given: 4, needs: 1 }]);
  });
  test("who accepts JSON alone gets one document, and what cannot be asked is told", async () => {
    const one = await it.owner.ask("POST", "/api/planning/fit", body, { accept: "application/json" });
    expect(one.body).toMatchObject({ fits: true, canBeOff: ["stream"] });
    const wrong = await it.owner.ask("POST", "/api/planning/fit", { ...body, percentile: 0 });
    expect(wrong.status).toBe(422);
    expect(wrong.body.errors[0].path).toBe("percentile");
  });
});
