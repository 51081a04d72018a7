import { describe, expect, test } from "vitest";
import type { Cost } from "./cost.ts";
import { costWords, kilowattHours, money } from "./cost-words.ts";

const cost = (more: Partial<Cost>): Cost => ({
  amount: 0,
  energy: 0,
  volume: 0,
  standing: 0,
  unpriced: 0,
  grams: null,
  prices: [],
  ...more,
});

test.each([
  [1234.5, "EUR", "EUR 1,234.50"],
  [0.393, "EUR", "EUR 0.393"],
  [0, "EUR", "EUR 0.00"],
  [-2, "EUR", "-EUR 2.00"],
  [1500, "JPY", "JPY 1,500"],
  [0.4, "JPY", "JPY 0"],
  [2.5, "KWD", "KWD 2.500"],
])("%d %s is %s (minor units by ISO 4217)", (amount, currency, words) => expect(money(amount, currency)).toBe(words));

test("watt-hours are told in kWh", () => {
  expect(kilowattHours(3576)).toBe("3.58 kWh");
  expect(kilowattHours(0)).toBe("0 kWh");
});

describe("how a cost was worked out", () => {
  test("one price, with its product", () =>
    expect(costWords(cost({ amount: 0.5, prices: [{ price: 0.25, wattHours: 2000 }] }), "EUR")).toBe(
      "2 kWh × 0.25 EUR/kWh = EUR 0.50",
    ));
  test("several prices, charges, and what lies before the tariff", () =>
    expect(
      costWords(
        cost({
          amount: 4.2,
          volume: 0.2,
          standing: 3,
          unpriced: 1500,
          prices: [
            { price: 0.3, wattHours: 2000 },
            { price: 0.2, wattHours: 2000 },
            { price: 0.1, wattHours: 0 },
          ],
        }),
        "EUR",
      ),
    ).toBe(
      "2 kWh × 0.3 EUR/kWh + 2 kWh × 0.2 EUR/kWh + EUR 0.20 by volume + EUR 3.00 standing charge = EUR 4.20; 1.5 kWh lie before the tariff's first day",
    ));
  test("of many prices the first four are written out", () => {
    const prices = [6, 5, 4, 3, 2, 1].map((price) => ({ price, wattHours: 1000 }));
    expect(costWords(cost({ amount: 21, prices }), "EUR")).toMatch(/^1 kWh × 6 .* \+ 2 more prices = EUR 21\.00$/);
  });
  test("nothing used costs nothing but its charges", () =>
    expect(costWords(cost({ amount: 3, standing: 3 }), "EUR")).toBe("0 kWh + EUR 3.00 standing charge = EUR 3.00"));
});
