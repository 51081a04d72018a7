import type { ReactNode } from "react";
import type { ReadingTileKind, TileKind } from "../../../../../core/dashboards/tile-kinds.ts";
import { ChartTile } from "./chart-tile.tsx";
import { DialTile } from "./dial-tile.tsx";
import { EventRows } from "./event-rows.tsx";
import { MetersTile } from "./meters-tile.tsx";
import { NoteTile } from "./note-tile.tsx";
import { NumberTile } from "./number-tile.tsx";
import { CostTile, EnergyTile, FitTile, MonthTile, SpaceTile } from "./plan-tiles.tsx";
import { StatesTile } from "./states-tile.tsx";
import { FigureRows, LineRows, TableRows } from "./table-rows.tsx";
import type { ReadingTileProps, TileBodyProps } from "./tile-props.ts";
import { TopRows } from "./top-rows.tsx";
import type { TileData } from "./use-tile.ts";

/** Draws what a tile has read; undefined while there is nothing yet. */
export type DrawReading = (props: ReadingTileProps) => ReactNode | undefined;

/** A chart is made once, with what it draws: 24 that are made empty first cost a page a frame. */
const chart: DrawReading = (props) => props.data.answer && <ChartTile {...props} />;

/** Single figures are drawn once there are some. */
const ofFigures =
  (draw: (figures: NonNullable<TileData["figures"]>, props: ReadingTileProps) => ReactNode): DrawReading =>
  (props) =>
    props.data.figures && draw(props.data.figures, props);

/** How each kind of tile that draws a reading or a table is drawn. */
export const readingTiles: Readonly<Record<ReadingTileKind, DrawReading>> = {
  lines: chart,
  stacked: chart,
  bars: chart,
  horizon: chart,
  heat: chart,
  number: ofFigures((figures, { tile, data, heightPx }) => (
    <NumberTile tile={tile} figures={figures} data={data} heightPx={heightPx} />
  )),
  meter: ofFigures((figures, { tile, widthPx, heightPx }) => (
    <MetersTile tile={tile} figures={figures} widthPx={widthPx} heightPx={heightPx} />
  )),
  dial: ofFigures((figures, { tile, widthPx, heightPx }) => (
    <DialTile tile={tile} figures={figures} widthPx={widthPx} heightPx={heightPx} />
  )),
  top: ofFigures((figures, { tile }) => <TopRows tile={tile} figures={figures} />),
  states: ({ tile, data: { answer, nameOf }, heightPx }) =>
    answer && <StatesTile tile={tile} answer={answer} nameOf={nameOf} heightPx={heightPx} />,
  table: ofFigures((figures, { tile: { table, title, limits }, data }) => {
    if (table) return <TableRows table={table} title={title} />;
    return figures.columns.length > 1 ? (
      <FigureRows figures={figures} title={title} />
    ) : (
      <LineRows lines={data.answer?.lines ?? []} nameOf={data.nameOf} title={title} limits={limits} />
    );
  }),
};

/** How those are drawn that read for themselves. */
export const ownTiles: Readonly<Record<Exclude<TileKind, ReadingTileKind>, (props: TileBodyProps) => ReactNode>> = {
  events: () => <EventRows />,
  energy: () => <EnergyTile />,
  cost: () => <CostTile />,
  space: () => <SpaceTile />,
  fit: () => <FitTile />,
  month: () => <MonthTile />,
  note: ({ tile, picks }) => <NoteTile tile={tile} picks={picks} />,
};
