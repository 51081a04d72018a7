import fc from "fast-check";
import { expect, test } from "vitest";
import { costOf, meanPrices, spansOver } from "./cost.ts";
import { priceSpans } from "./price-clock.ts";
import { type Tariff, weekdays } from "./tariff.ts";

const hour = 3_600_000;
const day = 24 * hour;
const time = fc
  .tuple(fc.integer({ min: 0, max: 23 }), fc.constantFrom(0, 15, 30, 45))
  .map(([h, m]) => `${String(h).padStart(2, "0")}:${String(m).padStart(2, "0")}`);
const price = fc.integer({ min: 5, max: 60 }).map((cents) => cents / 100);
const hours = fc.array(
  fc.record(
    { days: fc.uniqueArray(fc.constantFrom(...weekdays), { minLength: 1 }), from: time, to: time, price },
    { requiredKeys: ["from", "to", "price"] },
  ),
  { maxLength: 3 },
);
const date = fc
  .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 28 }))
  .map(([m, d]) => `${String(m).padStart(2, "0")}-${String(d).padStart(2, "0")}`);
const tariff: fc.Arbitrary<Tariff> = fc.record({
  name: fc.constant("rack"),
  currency: fc.constant("EUR"),
  zone: fc.constantFrom("UTC", "Europe/Berlin", "America/St_Johns", "Australia/Lord_Howe", "Asia/Kathmandu"),
  from: fc.constant("2026-01-01"),
  price,
  hours,
  seasons: fc.array(fc.record({ from: date, to: date, price, hours }), { maxLength: 2 }),
});
/** Around both changes of clock of these zones, and elsewhere in the year. */
const start = fc.integer({ min: 5, max: 360 }).map((d) => Date.UTC(2026, 0, d));
const length = fc.integer({ min: 1, max: 12 }).map((days) => days * day);

test("spans of prices lie one after the other, without a hole and without an overlap (property)", () =>
  fc.assert(
    fc.property(tariff, start, length, (one, from, ms) => {
      const spans = priceSpans([one], from, from + ms);
      expect(spans[0]?.fromMs).toBe(from);
      expect(spans.at(-1)?.toMs).toBe(from + ms);
      spans.slice(1).forEach((span, i) => {
        expect(span.fromMs).toBe(spans[i]?.toMs);
        // What costs the same is one span.
        expect(span.price).not.toBe(spans[i]?.price);
      });
    }),
  ));

test("a price is one of the tariff's, and wherever a window is cut it is the same (property)", () =>
  fc.assert(
    fc.property(tariff, start, length, fc.double({ min: 0.1, max: 0.9, noNaN: true }), (one, from, ms, share) => {
      const known = new Set([
        one.price,
        ...(one.hours ?? []).map(({ price: p }) => p),
        ...(one.seasons ?? []).flatMap((season) => [
          season.price ?? one.price,
          ...(season.hours ?? []).map(({ price: p }) => p),
        ]),
      ]);
      const spans = priceSpans([one], from, from + ms);
      for (const span of spans) expect(known).toContain(span.price);
      const middle = from + Math.floor((ms * share) / hour) * hour;
      const halves = [...priceSpans([one], from, middle), ...priceSpans([one], middle, from + ms)];
      const at = (all: typeof spans, moment: number) =>
        all.find(({ fromMs, toMs }) => fromMs <= moment && moment < toMs)?.price;
      for (let moment = from; moment < from + ms; moment += 37 * 60_000)
        expect(at(halves, moment)).toBe(at(spans, moment));
    }),
  ));

test("what energy costs is what its mean prices make of it, between the least price and the most (property)", () =>
  fc.assert(
    fc.property(tariff, start, length, (one, from, ms) => {
      const count = ms / hour;
      const edgesMs = Float64Array.from({ length: count + 1 }, (_, h) => from + h * hour);
      const wattHours = Float64Array.from({ length: count }, (_, h) => 50 + (h % 7) * 10);
      const spans = spansOver([one], edgesMs);
      const { energy, prices, unpriced } = costOf([one], { edgesMs, wattHours }, from, from + ms, spans);
      const mean = meanPrices(edgesMs, spans);
      expect(wattHours.reduce((sum, wh, k) => sum + (wh / 1000) * (mean[k] as number), 0)).toBeCloseTo(energy, 9);
      expect(prices.reduce((sum, { wattHours: wh }) => sum + wh, 0)).toBeCloseTo(
        wattHours.reduce((sum, wh) => sum + wh, 0),
        6,
      );
      expect(unpriced).toBeCloseTo(0, 6);
    }),
  ));
