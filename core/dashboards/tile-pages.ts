import { inReadingOrder } from "./arrange-tiles.ts";
import type { Tile } from "./dashboard.ts";

export interface TilePage {
  /** Moved up so that the page begins at row 0. */
  readonly tiles: readonly Tile[];
  readonly rows: number;
}

/**
 * Tiles in pages of at most `most` rows, for paper and for a wall, none cut in two: a page ends where no tile reaches
 * across. Where tiles
 * hang together over more rows than a page has, theirs is longer, and whoever draws it makes its rows lower.
 */
export function tilePages(tiles: readonly Tile[], most: number): readonly TilePage[] {
  const blocks: { from: number; to: number; tiles: Tile[] }[] = [];
  for (const tile of inReadingOrder(tiles)) {
    const { y, height } = tile.place;
    const last = blocks.at(-1);
    if (last && y < last.to) {
      last.tiles.push(tile);
      last.to = Math.max(last.to, y + height);
    } else blocks.push({ from: y, to: y + height, tiles: [tile] });
  }
  const pages: { from: number; to: number; tiles: Tile[] }[] = [];
  for (const block of blocks) {
    const page = pages.at(-1);
    if (page && block.to - page.from <= most) {
      page.tiles.push(...block.tiles);
      page.to = block.to;
    } else pages.push(block);
  }
  return pages.map(({ from, to, tiles: own }) => ({
    rows: to - from,
    tiles: own.map((tile) => ({ ...tile, place: { ...tile.place, y: tile.place.y - from } })),
  }));
}
