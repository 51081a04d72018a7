import { type ReactNode, useRef } from "react";
import ReactGridLayout, { type Layout, verticalCompactor } from "react-grid-layout";
import { inReadingOrder } from "../../../../../core/dashboards/arrange-tiles.ts";
import { gridColumns, type Tile, type TilePlace } from "../../../../../core/dashboards/dashboard.ts";
import { useWidth } from "../../../ui/use-width.ts";
import { usePicks } from "../picks-provider.tsx";
import { narrowPx } from "../tile-grid.tsx";
import { gapPx, rowPx, spanPx } from "../tile-sheet.tsx";
import { TileFrame } from "../tiles/tile-frame.tsx";

const leastPx = 2;

interface TileArrangerProps {
  readonly tiles: readonly Tile[];
  /** What stands above a tile. */
  readonly tools: (tile: Tile) => ReactNode;
  readonly onPlaces: (places: ReadonlyMap<string, TilePlace>) => void;
}

/**
 * Tiles that are dragged and resized; where the page is narrow they stand in one column and are moved by their tools.
 */
export function TileArranger({ tiles, tools, onPlaces }: TileArrangerProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const { picks } = usePicks();
  const columnPx = (width - gapPx * (gridColumns - 1)) / gridColumns;
  const ordered = inReadingOrder(tiles);
  const frame = (tile: Tile, widthPx: number) => (
    <TileFrame
      tile={tile}
      picks={picks}
      widthPx={widthPx}
      heightPx={spanPx(tile.place.height, rowPx)}
      tools={tools(tile)}
    />
  );
  if (width < narrowPx) {
    return (
      <div ref={place} className="flex flex-col gap-5">
        {ordered.map((tile) => (
          <div key={tile.id} style={{ height: spanPx(tile.place.height, rowPx) }}>
            {frame(tile, width)}
          </div>
        ))}
      </div>
    );
  }
  const take = (layout: Layout) => {
    const places = new Map(layout.map(({ i, x, y, w, h }) => [i, { x, y, width: w, height: h }]));
    if (tiles.some(({ id, place: now }) => differs(now, places.get(id)))) onPlaces(places);
  };
  return (
    <div ref={place} className="tile-editing">
      {/* The dragging library would put a style element of its own into the page, which the content policy refuses; it looks for this first. */}
      <span id="react-draggable-style-el" hidden />
      <ReactGridLayout
        width={width}
        layout={tiles.map(({ id, place: { x, y, width: w, height: h } }) => ({
          i: id,
          x,
          y,
          w,
          h,
          minW: leastPx,
          minH: leastPx,
        }))}
        gridConfig={{ cols: gridColumns, rowHeight: rowPx, margin: [gapPx, gapPx], containerPadding: [0, 0] }}
        dragConfig={{ enabled: true, handle: "[data-tile-handle]" }}
        resizeConfig={{ enabled: true, handles: ["se"] }}
        compactor={verticalCompactor}
        // Only what a hand has done: the grid tells of its own closing up as well, which would be a change that nobody
        // made.
        onDragStop={take}
        onResizeStop={take}
      >
        {ordered.map((tile) => (
          <div key={tile.id}>{frame(tile, spanPx(tile.place.width, columnPx))}</div>
        ))}
      </ReactGridLayout>
    </div>
  );
}

const differs = (a: TilePlace, b: TilePlace | undefined) =>
  b !== undefined && (a.x !== b.x || a.y !== b.y || a.width !== b.width || a.height !== b.height);
