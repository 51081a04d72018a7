import { type ReactNode, useRef } from "react";
import ReactGridLayout, { type Layout, verticalCompactor } from "react-grid-layout";
import { inReadingOrder } from "../../../../core/dashboards/arrange-tiles.ts";
import { gridColumns, type Tile, type TilePlace } from "../../../../core/dashboards/dashboard.ts";
import { useWidth } from "../../ui/use-width.ts";
import { TileFrame } from "./tile-frame.tsx";

export const rowPx = 36;
const gapPx = 16;
/** Narrower pages have one column. */
const narrowPx = 720;
const leastPx = 2;

interface TileGridProps {
  readonly tiles: readonly Tile[];
  /** What stands above a tile that is being edited; undefined where nothing is. */
  readonly tools?: (tile: Tile) => ReactNode;
  readonly onPlaces?: (places: ReadonlyMap<string, TilePlace>) => void;
}

/** Tiles on twelve columns without frames; one column in reading order where the page is narrow. While they are edited they are dragged and resized. */
export function TileGrid({ tiles, tools, onPlaces }: TileGridProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const columnPx = (width - gapPx * (gridColumns - 1)) / gridColumns;
  const widthOf = (columns: number) => columns * columnPx + (columns - 1) * gapPx;
  const heightOf = (rows: number) => rows * rowPx + (rows - 1) * gapPx;
  const ordered = inReadingOrder(tiles);
  if (width < narrowPx) {
    return (
      <div ref={place} className="flex flex-col gap-5">
        {ordered.map((tile) => <div key={tile.id} style={{ height: heightOf(tile.place.height) }}><TileFrame tile={tile} widthPx={width} heightPx={heightOf(tile.place.height)} tools={tools?.(tile)} /></div>)}
      </div>
    );
  }
  if (!onPlaces) {
    return (
      <div ref={place} className="grid" style={{ gridTemplateColumns: `repeat(${gridColumns}, minmax(0, 1fr))`, gridAutoRows: rowPx, gap: gapPx }}>
        {ordered.map((tile) => (
          <div key={tile.id} style={{ gridColumn: `${tile.place.x + 1} / span ${tile.place.width}`, gridRow: `${tile.place.y + 1} / span ${tile.place.height}` }}>
            <TileFrame tile={tile} widthPx={widthOf(tile.place.width)} heightPx={heightOf(tile.place.height)} />
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
        layout={tiles.map(({ id, place: { x, y, width: w, height: h } }) => ({ i: id, x, y, w, h, minW: leastPx, minH: leastPx }))}
        gridConfig={{ cols: gridColumns, rowHeight: rowPx, margin: [gapPx, gapPx], containerPadding: [0, 0] }}
        dragConfig={{ enabled: true, handle: "[data-tile-handle]" }}
        resizeConfig={{ enabled: true, handles: ["se"] }}
        compactor={verticalCompactor}
        // Only what a hand has done: the grid tells of its own closing up as well, which would be a change that nobody made.
        onDragStop={take}
        onResizeStop={take}
      >
        {ordered.map((tile) => (
          <div key={tile.id}>
            <TileFrame tile={tile} widthPx={widthOf(tile.place.width)} heightPx={heightOf(tile.place.height)} tools={tools?.(tile)} />
          </div>
        ))}
      </ReactGridLayout>
    </div>
  );
}

const differs = (a: TilePlace, b: TilePlace | undefined) => b !== undefined && (a.x !== b.x || a.y !== b.y || a.width !== b.width || a.height !== b.height);
