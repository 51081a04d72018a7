import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Tile } from "./dashboard.ts";
import { settled } from "./arrange-tiles.ts";
import { tilePages } from "./tile-pages.ts";
import { isNightHour, wallShift } from "./wall.ts";

const tile = (id: string, x: number, y: number, width: number, height: number): Tile => ({
  id,
  title: id,
  kind: "note",
  place: { x, y, width, height },
});
const ids = (tiles: readonly Tile[], most: number) =>
  tilePages(tiles, most).map((page) => page.tiles.map(({ id }) => id).join(""));

describe("tiles in pages", () => {
  const four = [tile("a", 0, 0, 6, 6), tile("b", 6, 0, 6, 4), tile("c", 0, 6, 12, 6), tile("d", 0, 12, 12, 4)];
  test("are cut where none reaches across", () => {
    expect(ids(four, 12)).toEqual(["abc", "d"]);
    expect(ids(four, 6)).toEqual(["ab", "c", "d"]);
    expect(ids(four, 99)).toEqual(["abcd"]);
    expect(tilePages(four, 12)[1]).toMatchObject({ rows: 4, tiles: [{ place: { y: 0 } }] });
  });
  test("that hang together stay together, on a page that is longer", () => {
    const hooked = [tile("a", 0, 0, 6, 8), tile("b", 6, 4, 6, 8)];
    expect(tilePages(hooked, 6)).toMatchObject([{ rows: 12 }]);
  });
  test("none is lost, none stands above its page (property)", () => {
    const one = fc.record({
      x: fc.nat(8),
      y: fc.nat(30),
      width: fc.integer({ min: 2, max: 4 }),
      height: fc.integer({ min: 2, max: 9 }),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 20 }), fc.integer({ min: 1, max: 14 }), (places, most) => {
        const tiles = settled(places.map((place, i) => ({ ...tile(String(i), 0, 0, 2, 2), place })));
        const pages = tilePages(tiles, most);
        expect(pages.flatMap((page) => page.tiles.map(({ id }) => id)).sort()).toEqual(
          tiles.map(({ id }) => id).sort(),
        );
        for (const page of pages)
          for (const { place } of page.tiles) expect(place.y >= 0 && place.y + place.height <= page.rows).toBe(true);
      }),
    );
  });
});

describe("a wall", () => {
  test.each([
    [20, 7, 19, false],
    [20, 7, 20, true],
    [20, 7, 3, true],
    [20, 7, 7, false],
    [1, 5, 0, false],
    [1, 5, 4, true],
    [1, 5, 5, false],
  ])("night from %d to %d: at %d it is %s", (from, to, hour, is) => expect(isNightHour({ from, to }, hour)).toBe(is));
  test("nothing stays in its place for long, nothing moves far or jumps", () => {
    const places = Array.from({ length: 24 * 60 }, (_, minute) => wallShift(minute * 60_000));
    expect(places.every(({ x, y }) => Math.abs(x) <= 6 && Math.abs(y) <= 6)).toBe(true);
    expect(
      places
        .slice(1)
        .every(({ x, y }, i) => Math.abs(x - (places[i]?.x ?? 0)) <= 1 && Math.abs(y - (places[i]?.y ?? 0)) <= 1),
    ).toBe(true);
    const counts = new Map<string, number>();
    for (const { x, y } of places) counts.set(`${x} ${y}`, (counts.get(`${x} ${y}`) ?? 0) + 1);
    expect(Math.max(...counts.values()) / places.length).toBeLessThan(0.05);
  });
});
