import type { Tile } from "../../../../../core/dashboards/dashboard.ts";

/** What of a tile becomes another; undefined takes a field away. */
export type TileChange = { readonly [K in keyof Omit<Tile, "id">]?: Tile[K] | undefined };

/** The tile with a change: what is taken away does not stay behind as a field without a value. */
export function changedBy(tile: Tile, change: TileChange): Tile {
  return Object.fromEntries(
    Object.entries({ ...tile, ...change }).filter(([, value]) => value !== undefined),
  ) as unknown as Tile;
}
