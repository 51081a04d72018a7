import { describe, expect, test } from "vitest";
import { catalogue } from "../counters/catalogue.ts";
import { parseFigure } from "../reading/figure.ts";
import { settled } from "./arrange-tiles.ts";
import { drawsReading } from "./tile-kinds.ts";
import { readyMade } from "./ready-made.ts";

describe.each(readyMade.map((one) => [one.id, one] as const))("%s", (_, { needs, document }) => {
  test("reads counters that are gathered, with arithmetic that can be worked out", () => {
    for (const counter of needs) expect(catalogue.has(counter), counter).toBe(true);
    for (const { reading, kind } of document.tiles) {
      expect(reading !== undefined).toBe(drawsReading(kind));
      for (const { counter } of Object.values(reading?.sentences ?? {}))
        expect(catalogue.has(counter), counter).toBe(true);
      if (reading?.figure !== undefined)
        expect(parseFigure(reading.figure, Object.keys(reading.sentences))).toBeDefined();
    }
  });
  test("has its tiles where they stay when one is moved: none on another, no hole above any", () =>
    expect(settled(document.tiles)).toEqual(document.tiles));
});
