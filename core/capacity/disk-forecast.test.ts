import { expect, test } from "vitest";
import { bucketBytesPerDay, forecastBytes, rawBytesPerDay } from "./disk-forecast.ts";

const dayMs = 86_400_000;

test("samples: twenty a second of 1.5 B are 2.592 MB a day, 77.76 MB in thirty (arithmetic)", () => {
  expect(rawBytesPerDay(20, 1.5)).toBeCloseTo(2_592_000, 6);
  expect(forecastBytes(rawBytesPerDay(20, 1.5), 30)).toBeCloseTo(77_760_000, 6);
  expect(rawBytesPerDay(20, undefined)).toBeUndefined();
});

test("buckets: as the tier has grown, and guessed from the finer one before it holds a day", () => {
  expect(bucketBytesPerDay({ sizeBytes: 9e6, heldMs: 3 * dayMs }, 1e6, 0.2)).toBe(3e6);
  expect(bucketBytesPerDay({ sizeBytes: 100, heldMs: 1000 }, 1e6, 0.2)).toBe(2e5);
  expect(bucketBytesPerDay({ sizeBytes: 0, heldMs: 0 }, undefined, 0.2)).toBeUndefined();
  expect(forecastBytes(undefined, 30)).toBeUndefined();
});
