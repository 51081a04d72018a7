import type { ReactNode } from "react";
import { drawsReading, drawsTime } from "../../../../../core/dashboards/tile-kinds.ts";
import { type DrawReading, ownTiles, readingTiles } from "./drawn-tiles.tsx";
import { EmptyTile } from "./empty-tile.tsx";
import { TableTime } from "./table-time.tsx";
import type { TileBodyProps } from "./tile-props.ts";
import { useTile } from "./use-tile.ts";

const pointsPerColumn = 50;

/** The inside of a tile. */
export function TileBody(props: TileBodyProps): ReactNode {
  const { tile } = props;
  const { kind } = tile;
  if (!drawsReading(kind)) return ownTiles[kind](props);
  return tile.reading || tile.table ? (
    <DrawnTile {...props} draw={readingTiles[kind]} />
  ) : (
    <p className="text-quiet">This tile has nothing to draw yet.</p>
  );
}

function DrawnTile({
  tile,
  picks,
  widthPx,
  heightPx,
  bare = false,
  draw,
}: TileBodyProps & { readonly draw: DrawReading }): ReactNode {
  // By columns, not by px: what a screen has read serves its paper, its miniature and other tiles as well.
  const points = tile.place.width * pointsPerColumn;
  const data = useTile(tile, picks, points);
  const failure = data.error && (
    <p role="alert" className="text-[13px] text-urgent">
      {data.error.message}
    </p>
  );
  if (tile.table && drawsTime(tile.kind) && (data.answer?.lines.length ?? 0) === 0)
    return <TableTime table={tile.table} />;
  if (tile.reading && data.answer?.lines.length === 0)
    return (
      <>
        {failure}
        <EmptyTile tile={tile} picks={picks} data={data} />
      </>
    );
  const drawn = draw({ tile, data, widthPx, heightPx, bare });
  if (drawn === undefined) return failure || <p className="text-quiet">reading …</p>;
  return (
    <>
      {failure}
      {drawn}
    </>
  );
}
