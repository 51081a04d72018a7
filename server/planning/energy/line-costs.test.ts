import { describe, expect, test } from "vitest";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { LineCosts } from "./line-costs.ts";
import { sumOf } from "./sum-of.ts";
import type { Used } from "./used.ts";

const hour = 3_600_000;
const day = 24 * hour;
const start = Date.UTC(2026, 5, 1);
const hours = 48;
const edges = Float64Array.from({ length: hours + 1 }, (_, h) => start + h * hour);
const window = { from: start, to: start + 2 * day };
const plain: Tariff = { name: "rack", currency: "EUR", zone: "UTC", from: "2026-01-01", price: 0.25 };

function used(machine: string, watts: number, more: Partial<Used> = {}): Used {
  const steps = {
    edgesMs: edges,
    wattHours: new Float64Array(hours).fill(watts),
    knownMs: new Float64Array(hours).fill(hour),
  };
  return {
    of: machine,
    machine,
    measured: { steps, method: "", isPart: false, compared: null },
    estimated: false,
    feedsOthers: false,
    filled: new Float64Array(hours),
    ...more,
  };
}
const costs = (tariffs: readonly Tariff[], added: readonly Used[]) => new LineCosts(tariffs, added, edges, window);
const [hive, vault] = [used("hive", 150), used("vault", 50)];

describe("costs of things that share a meter", () => {
  test("each pays its energy, and its share of the standing charge and of what volume adds", () => {
    const tariff: Tariff = {
      ...plain,
      standing: { amount: 2, per: "day" },
      steps: [{ aboveKwh: 5, add: 0.1 }],
    };
    const found = costs([tariff], [hive, vault]);
    // 9.6 kWh together: 4.6 above the step; 150 of 200 W are three quarters of 4 of standing charge and 0.46 of volume.
    expect(found.of([hive])?.amount).toBeCloseTo(7.2 * 0.25 + 0.75 * (4 + 0.46), 9);
    expect(found.of([vault])?.amount).toBeCloseTo(2.4 * 0.25 + 0.25 * (4 + 0.46), 9);
    expect(found.of([hive, vault])?.amount).toBeCloseTo(9.6 * 0.25 + 4.46, 9);
    expect(found.of([hive])?.words).toBe(
      "7.2 kWh × 0.25 EUR/kWh + EUR 0.345 by volume + EUR 3.00 standing charge = EUR 5.15",
    );
  });
  test("parts of the window add up to the whole, with hours that cost something else", () => {
    const found = costs([{ ...plain, hours: [{ from: "22:30", to: "06:15", price: 0.1 }] }], [hive]);
    const parts = [0, 7, 24, 31, 48].map((h) => start + h * hour);
    const sum = parts
      .slice(1)
      .reduce((all, to, i) => all + (found.amountOf([hive], { from: parts[i] as number, to }) ?? 0), 0);
    expect(sum).toBeCloseTo(found.of([hive])?.amount as number, 9);
    // 7.75 hours of night each day, of which the first one has 6.25 at its beginning and 1.5 at its end.
    expect(found.of([hive])?.amount).toBeCloseTo(0.15 * 2 * (7.75 * 0.1 + 16.25 * 0.25), 9);
  });
  test("what is estimated, or measures others, pays its energy and nothing of the meter's charges", () => {
    const tariff: Tariff = { ...plain, standing: { amount: 3, per: "day" } };
    const found = costs([tariff], [hive]);
    for (const one of [used("desk", 100, { estimated: true }), used("ups", 100, { feedsOthers: true })])
      expect(found.of([one])?.amount).toBeCloseTo(4.8 * 0.25, 9);
  });
  test("what was filled in has its price as well", () => {
    const filled = new Float64Array(hours);
    filled[3] = 1000;
    const one = used("hive", 0, { filled });
    expect(costs([plain], [one]).of([one])?.amount).toBeCloseTo(0.25, 9);
  });
});

describe("several tariffs", () => {
  test("machines of meters of their own are added up where they are paid in one currency, else not", () => {
    const studio: Tariff = { ...plain, name: "studio", price: 0.5, sources: ["vault"] };
    const found = costs([plain, studio], [hive, vault]);
    expect(found.of([hive, vault])?.amount).toBeCloseTo(7.2 * 0.25 + 2.4 * 0.5, 9);
    const abroad = costs([plain, { ...studio, currency: "CHF" }], [hive, vault]);
    expect(abroad.of([hive, vault])).toBeUndefined();
    expect(abroad.amountOf([hive, vault], window)).toBeNull();
    expect(abroad.of([vault])?.currency).toBe("CHF");
  });
  test("without a tariff there is no cost", () => {
    expect(costs([], [hive]).of([hive])).toBeUndefined();
    expect(costs([], [hive]).amountOf([hive], window)).toBeNull();
  });
});

test("a sum knows what its members know in the mean, is estimated where one is, and names them", () => {
  const half = used("vault", 50);
  half.measured.steps.knownMs.fill(hour / 2);
  const sum = sumOf("together", [hive, half], edges);
  expect(sum.measured.steps.wattHours[0]).toBe(200);
  expect(sum.measured.steps.knownMs[0]).toBe(0.75 * hour);
  expect(sum).toMatchObject({ estimated: false, feedsOthers: false });
  expect(sum.measured.method).toBe("the sum of hive, vault");
  expect(sumOf("x", [hive, used("desk", 1, { estimated: true })], edges).estimated).toBe(true);
});
