import type { ReactNode } from "react";
import { inReadingOrder } from "../../../../core/dashboards/arrange-tiles.ts";
import { gridColumns, type Tile } from "../../../../core/dashboards/dashboard.ts";
import type { Picks } from "../../../../core/dashboards/pickers.ts";
import { TileFrame } from "./tiles/tile-frame.tsx";

export const rowPx = 36;
export const gapPx = 16;

export const spanPx = (count: number, onePx: number): number => count * onePx + (count - 1) * gapPx;

interface TileSheetProps {
  readonly tiles: readonly Tile[];
  readonly picksOf: (tile: Tile) => Picks;
  readonly widthPx: number;
  readonly rowPx?: number;
  /** What stands at the end of a tile's title. */
  readonly menu?: ((tile: Tile) => ReactNode) | undefined;
  /** Drawn whether they are near the screen or not. */
  readonly isWhole?: boolean;
  /** Without titles and labels, for a miniature. */
  readonly bare?: boolean;
}

/** Tiles on twelve columns of a sheet of given width, in reading order, each in its place. */
export function TileSheet({
  tiles,
  picksOf,
  widthPx,
  rowPx: row = rowPx,
  menu,
  isWhole = false,
  bare = false,
}: TileSheetProps): ReactNode {
  const columnPx = (widthPx - gapPx * (gridColumns - 1)) / gridColumns;
  return (
    <div
      className="grid"
      style={{
        width: widthPx,
        gridTemplateColumns: `repeat(${gridColumns}, minmax(0, 1fr))`,
        gridAutoRows: row,
        gap: gapPx,
      }}
    >
      {inReadingOrder(tiles).map((tile) => (
        <div
          key={tile.id}
          className="min-w-0"
          style={{
            gridColumn: `${tile.place.x + 1} / span ${tile.place.width}`,
            gridRow: `${tile.place.y + 1} / span ${tile.place.height}`,
          }}
        >
          <TileFrame
            tile={tile}
            picks={picksOf(tile)}
            widthPx={spanPx(tile.place.width, columnPx)}
            heightPx={spanPx(tile.place.height, row)}
            menu={menu?.(tile)}
            isWhole={isWhole}
            bare={bare}
          />
        </div>
      ))}
    </div>
  );
}
