import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  changedTile,
  copiedTile,
  inReadingOrder,
  insideGrid,
  movedTile,
  resizedTile,
  settled,
  withoutTile,
  withTile,
} from "./arrange-tiles.ts";
import { type Dashboard, emptyDashboard, gridColumns, type Tile } from "./dashboard.ts";
import { tileKindNames } from "./tile-kinds.ts";

const tile = (id: string, x: number, y: number, width = 4, height = 4): Tile => ({
  id,
  title: id,
  kind: "note",
  place: { x, y, width, height },
});
const board = (...tiles: Tile[]): Dashboard => ({ ...emptyDashboard("Studio"), tiles });
const places = ({ tiles }: Dashboard) =>
  Object.fromEntries(tiles.map(({ id, place: { x, y, width, height } }) => [id, [x, y, width, height]]));
const overlaps = (tiles: readonly Tile[]) =>
  tiles.some(({ place: a }, i) =>
    tiles
      .slice(i + 1)
      .some(
        ({ place: b }) => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height,
      ),
  );

describe("tiles", () => {
  test("a new one takes the first free place, in a size of its kind", () => {
    const two = withTile(withTile(board(tile("a", 0, 0, 6, 6)), { title: "b", kind: "lines" }), {
      title: "c",
      kind: "number",
    });
    expect(places(two)).toEqual({ a: [0, 0, 6, 6], "tile-2": [6, 0, 6, 6], "tile-3": [0, 6, 3, 4] });
  });
  test("a copy has a name of its own and what the first has", () => {
    const { tiles } = copiedTile(board({ ...tile("tile-2", 0, 0), text: "hello" }), "tile-2");
    expect(tiles[1]).toMatchObject({ id: "tile-3", text: "hello", place: { x: 4, y: 0 } });
    expect(new Set(tiles.map(({ id }) => id)).size).toBe(2);
  });
  test("one is changed, one is removed, the others stay as they are", () => {
    const before = board(tile("a", 0, 0), tile("b", 4, 0));
    expect(changedTile(before, "b", { title: "new" }).tiles.map(({ title }) => title)).toEqual(["a", "new"]);
    expect(withoutTile(before, "a").tiles).toEqual([before.tiles[1]]);
  });
  test("moved onto another, that one gives way downwards and all close up", () => {
    expect(places(movedTile(board(tile("a", 0, 0), tile("b", 4, 0), tile("c", 4, 4)), "a", "right"))).toEqual({
      a: [1, 0, 4, 4],
      b: [4, 4, 4, 4],
      c: [4, 8, 4, 4],
    });
    expect(places(movedTile(board(tile("a", 0, 0), tile("b", 0, 4)), "b", "right"))).toEqual({
      a: [0, 0, 4, 4],
      b: [1, 4, 4, 4],
    });
  });
  test("they stay inside the grid and keep a least size", () => {
    expect(places(movedTile(board(tile("a", 0, 0)), "a", "left"))).toEqual({ a: [0, 0, 4, 4] });
    expect(places(resizedTile(board(tile("a", 8, 0)), "a", "right"))).toEqual({ a: [7, 0, 5, 4] });
    expect(places(resizedTile(board(tile("a", 0, 0, 2, 2)), "a", "up"))).toEqual({ a: [0, 0, 2, 2] });
    expect(insideGrid({ x: 99, y: -5, width: 99, height: 0 })).toEqual({ x: 0, y: 0, width: gridColumns, height: 2 });
  });
  test("are read row by row", () =>
    expect(inReadingOrder([tile("c", 0, 4), tile("b", 4, 0), tile("a", 0, 0)]).map(({ id }) => id)).toEqual([
      "a",
      "b",
      "c",
    ]));
  test("however they are moved, resized, copied and removed, none lies on another and none is lost (property)", () => {
    const act = fc.tuple(
      fc.constantFrom("move", "resize", "copy", "add"),
      fc.constantFrom("left", "right", "up", "down"),
      fc.nat(9),
      fc.constantFrom(...tileKindNames),
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 25 }), (acts) => {
        let now = board(tile("a", 0, 0), tile("b", 4, 0));
        let expected = 2;
        for (const [kind, side, n, tileKind] of acts) {
          const id = (now.tiles[n % now.tiles.length] as Tile).id;
          if (kind === "move") now = movedTile(now, id, side);
          else if (kind === "resize") now = resizedTile(now, id, side);
          else {
            now = kind === "copy" ? copiedTile(now, id) : withTile(now, { title: "", kind: tileKind });
            expected++;
          }
          expect(now.tiles).toHaveLength(expected);
          expect(overlaps(now.tiles)).toBe(false);
          for (const { place } of now.tiles) expect(place).toEqual(insideGrid(place));
        }
      }),
    );
  });
  test("settled ones stay", () => {
    const tiles = [tile("a", 0, 0), tile("b", 4, 0)];
    expect(settled(tiles)).toEqual(tiles);
  });
});
