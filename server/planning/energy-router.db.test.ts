import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";
import { monthReadings } from "./energy/month-readings.ts";

let it: OwnedServer;
beforeAll(async () => {
  it = await ownedServer();
}, 60_000);
afterAll(() => it.close());

const plain = { name: "rack", currency: "eur", zone: "Europe/Berlin", from: "2020-01-01", price: 0.25 };
const put = (tariffs: unknown) => it.owner.ask("PUT", "/api/tariffs", tariffs);

describe("tariffs", () => {
  test("a plain price is enough; a standing charge as a number is a month's", async () => {
    expect((await it.owner.ask("GET", "/api/tariffs")).body).toEqual([]);
    const made = await put([{ ...plain, standing: 9 }]);
    expect(made.body).toEqual([{ ...plain, currency: "EUR", standing: { amount: 9, per: "month" } }]);
    expect((await it.owner.ask("GET", "/api/tariffs")).body).toEqual(made.body);
  });
  test.each([
    [{ ...plain, currency: "XQX" }, "0.currency", "ISO 4217"],
    [{ ...plain, zone: "Mars/Olympus" }, "0.zone", "Europe/Berlin"],
    [{ ...plain, from: "2026-02-30" }, "0.from", "2026-01-01"],
    [{ ...plain, hours: [{ from: "25:00", to: "06:00", price: 1 }] }, "0.hours.0.from", "22:00"],
    [{ ...plain, seasons: [{ from: "13-01", to: "03-31" }] }, "0.seasons.0.from", "10-01"],
    [{ ...plain, price: "cheap" }, "0.price", "number"],
  ])("what is wrong is told beside its place, and nothing is changed: %j", async (tariff, path, words) => {
    const answer = await put([tariff]);
    expect(answer.status).toBe(422);
    expect(answer.body.errors[0].path).toBe(path);
    expect(answer.body.errors[0].message).toContain(words);
    expect((await it.owner.ask("GET", "/api/tariffs")).body[0].name).toBe("rack");
  });
  test("two of one name from one day are refused", async () => {
    const answer = await put([plain, plain]);
    expect(answer.status).toBe(422);
    expect(JSON.stringify(answer.body)).toContain("give one another name or day");
  });
});

describe("a budget", () => {
  test("makes an ordinary rule once, and the month's cost is a counter as any other", async () => {
    const named = async () =>
      (await it.owner.ask("GET", "/api/rules")).body.filter(
        ({ name }: { name: string }) => name === "month's budget will be passed",
      );
    expect(await named()).toEqual([]);
    await put([{ ...plain, budgetPerMonth: 1 }]);
    await put([{ ...plain, budgetPerMonth: 2 }]);
    expect(await named()).toHaveLength(1);
    const { store } = it.server;
    expect(await monthReadings({ store, database: it.db.database })).toEqual([]);
    const [id] = (await store.series.resolve([
      { counter: "hw.host.power", tags: { machine: "vault", sensor: "whole" }, unit: "W", kind: "level" },
    ])) as unknown as number[];
    const now = Date.now();
    const rows = Array.from({ length: 49 }, (_, i): [number, number, number] => [
      id as number,
      now - (48 - i) * 1_800_000,
      100,
    ]);
    await store.write(batchOf(rows));
    const readings = await monthReadings({ store, database: it.db.database });
    expect(readings.map(({ counter, tags, unit }) => [counter, tags, unit])).toEqual([
      ["nubrel.month.cost", { tariff: "rack" }, "{EUR}"],
      ["nubrel.month.expected_cost", { tariff: "rack" }, "{EUR}"],
      ["nubrel.month.budget_share", { tariff: "rack" }, undefined],
    ]);
    // 100 W over a month of 28 to 31 days at 0.25 a kWh are 16.8 to 18.6, of 2.
    expect(readings[2]?.value).toBeGreaterThan(8.3);
    expect(readings[2]?.value).toBeLessThan(9.4);
  });
});

describe("asking for energy", () => {
  test.each([
    [{ per: "moon" }, "per"],
    [{ window: { from: 2, to: 1 } }, "window.to"],
    [{ step: "week" }, "step"],
  ])("what cannot be asked is told: %j", async (wrong, path) => {
    const answer = await it.owner.ask("POST", "/api/planning/energy", {
      window: { from: 0, to: 1e12 },
      per: "machine",
      ...wrong,
    });
    expect(answer.status).toBe(422);
    expect(answer.body.errors.map((one: { path: string }) => one.path)).toContain(path);
  });
  test("settings are checked, and kept", async () => {
    const settings = {
      guesses: { desk: { idleWatts: 40, fullWatts: 30 } },
      feeders: [],
      meters: [{ counter: "rack_meter_kwh" }, { counter: "strip_watts", outlets: "port" }],
      speeds: {},
      diskOperations: { hive: 400 },
      fills: [],
    };
    expect((await it.owner.ask("PUT", "/api/planning/settings", settings)).status).toBe(422);
    const right = { ...settings, guesses: { desk: { idleWatts: 40, fullWatts: 90 } } };
    expect((await it.owner.ask("PUT", "/api/planning/settings", right)).body).toEqual(right);
    expect((await it.owner.ask("GET", "/api/planning/settings")).body).toEqual(right);
    for (const meters of [[{ counter: "" }], [{ counter: "a", outlets: "a b" }], [{ counter: "a" }, { counter: "a" }]])
      expect((await it.owner.ask("PUT", "/api/planning/settings", { ...right, meters })).status).toBe(422);
  });
});
