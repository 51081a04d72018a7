import { type ReactNode, useRef } from "react";
import { inReadingOrder } from "../../../../core/dashboards/arrange-tiles.ts";
import type { Tile } from "../../../../core/dashboards/dashboard.ts";
import { useWidth } from "../../ui/use-width.ts";
import { useShownTiles } from "./shown-tiles.ts";
import { rowPx, spanPx, TileSheet } from "./tile-sheet.tsx";
import { TileFrame } from "./tiles/tile-frame.tsx";

/** Narrower pages have one column. */
export const narrowPx = 720;

interface TileGridProps {
  readonly tiles: readonly Tile[];
  /** What stands at the end of a tile's title. */
  readonly menu?: (tile: Tile) => ReactNode;
}

/** Tiles to be looked at, without frames; one column in reading order where the page is narrow. */
export function TileGrid({ tiles, menu }: TileGridProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const { shown, picksOf } = useShownTiles(tiles);
  return (
    <div ref={place} className={width < narrowPx ? "flex flex-col gap-5" : undefined}>
      {width >= narrowPx ? (
        <TileSheet tiles={shown} picksOf={picksOf} widthPx={width} menu={menu} />
      ) : (
        inReadingOrder(shown).map((tile) => (
          <div key={tile.id} style={{ height: spanPx(tile.place.height, rowPx) }}>
            <TileFrame
              tile={tile}
              picks={picksOf(tile)}
              widthPx={width}
              heightPx={spanPx(tile.place.height, rowPx)}
              menu={menu?.(tile)}
            />
          </div>
        ))
      )}
    </div>
  );
}
