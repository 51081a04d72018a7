import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import type { Picks } from "../../../../../core/dashboards/pickers.ts";
import type { TileData } from "./use-tile.ts";

export interface TileBodyProps {
  readonly tile: Tile;
  /** The picks that hold for it. */
  readonly picks: Picks;
  readonly widthPx: number;
  readonly heightPx: number;
  /** A chart without its labels, for a miniature. */
  readonly bare?: boolean;
}

/** What a tile that has read is drawn from. */
export interface ReadingTileProps {
  readonly tile: Tile;
  readonly data: TileData;
  readonly widthPx: number;
  readonly heightPx: number;
  /** A chart without its labels, for a miniature. */
  readonly bare: boolean;
}
