import type { ReactNode } from "react";
import { drawsTime, type Tile } from "../../../../../core/dashboards/dashboard.ts";
import type { Picks } from "../../../../../core/dashboards/pickers.ts";
import type { ReadingAnswer } from "../../../../../core/reading/document.ts";
import { ChartWithActions } from "../../../shared/charts/chart-with-actions.tsx";
import { withUnit } from "../../../../../core/rules/incident-text.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { limitsOf, useRuleMarks } from "../../../shared/rules/rule-marks.ts";
import { usePicks } from "../picks-provider.tsx";
import { EmptyTile } from "./empty-tile.tsx";
import { EventRows } from "./event-rows.tsx";
import { DialTile } from "./dial-tile.tsx";
import { MetersTile } from "./meters-tile.tsx";
import { NoteTile } from "./note-tile.tsx";
import { NumberTile } from "./number-tile.tsx";
import { StatesTile } from "./states-tile.tsx";
import { FigureRows, LineRows, TableRows } from "./table-rows.tsx";
import { TableTime } from "./table-time.tsx";
import { TopRows } from "./top-rows.tsx";
import { type TileData, useTile } from "./use-tile.ts";
import { savedTileId, useTileRules } from "./use-tile-rules.ts";

/** What a chart needs beside its plot, px: the axis below, and the words under the labels. */
const chartEdges = 48;
const bareEdges = 30;
const pointsPerColumn = 50;

export interface TileBodyProps {
  readonly tile: Tile;
  /** The picks that hold for it. */
  readonly picks: Picks;
  readonly widthPx: number;
  readonly heightPx: number;
  /** A chart without its labels, for a miniature. */
  readonly bare?: boolean;
}

/** The inside of a tile. */
export function TileBody(props: TileBodyProps): ReactNode {
  const { tile } = props;
  if (tile.kind === "note") return <NoteTile tile={tile} picks={props.picks} />;
  if (tile.kind === "events") return <EventRows />;
  return tile.reading || tile.table ? (
    <DrawnTile {...props} />
  ) : (
    <p className="text-quiet">This tile has nothing to draw yet.</p>
  );
}

function DrawnTile({ tile, picks, widthPx, heightPx, bare = false }: TileBodyProps): ReactNode {
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
  if (drawsTime(tile.kind) && tile.kind !== "states")
    return (
      <>
        {failure}
        <ChartTile tile={tile} data={data} heightPx={heightPx} bare={bare} />
      </>
    );
  if (!data.figures) return failure || <p className="text-quiet">reading …</p>;
  return (
    <>
      {failure}
      <FigureTile tile={tile} data={data} widthPx={widthPx} heightPx={heightPx} />
    </>
  );
}

function FigureTile({
  tile,
  data,
  widthPx,
  heightPx,
}: {
  tile: Tile;
  data: TileData;
  widthPx: number;
  heightPx: number;
}): ReactNode {
  const figures = data.figures;
  if (!figures) return null;
  if (tile.kind === "number") return <NumberTile tile={tile} figures={figures} data={data} heightPx={heightPx} />;
  if (tile.kind === "meter") return <MetersTile tile={tile} figures={figures} widthPx={widthPx} heightPx={heightPx} />;
  if (tile.kind === "dial") return <DialTile tile={tile} figures={figures} widthPx={widthPx} heightPx={heightPx} />;
  if (tile.kind === "top") return <TopRows tile={tile} figures={figures} />;
  if (tile.kind === "states")
    return data.answer ? (
      <StatesTile tile={tile} answer={data.answer} nameOf={data.nameOf} heightPx={heightPx} />
    ) : null;
  if (!tile.table && figures.columns.length > 1) return <FigureRows figures={figures} title={tile.title} />;
  return tile.table ? (
    <TableRows table={tile.table} title={tile.title} />
  ) : (
    <LineRows lines={data.answer?.lines ?? []} nameOf={data.nameOf} title={tile.title} limits={tile.limits} />
  );
}

function ChartTile({
  tile,
  data,
  heightPx,
  bare,
}: {
  tile: Tile;
  data: TileData;
  heightPx: number;
  bare: boolean;
}): ReactNode {
  const { span } = useTime();
  const { answer, nameOf, reading } = data;
  const unit = answer?.lines[0]?.unit ?? "1";
  const others = answer && new Set(answer.lines.map((line) => line.unit)).size > 1;
  const { dashboardId } = usePicks();
  const rules = useTileRules(tile.id);
  const marks = useRuleMarks(rules);
  const limits = [
    ...(tile.limits ?? []).map(({ at, severity }) => ({
      key: `${severity} ${at}`,
      value: at,
      severity,
      text: withUnit(at, unit),
    })),
    ...rules.filter(({ on }) => on).flatMap((rule) => limitsOf(rule)),
  ];
  return (
    <>
      {others && (
        <p className="text-[13px] text-quiet">
          Its sentences have different units, which one scale cannot hold; drawn is the first.
        </p>
      )}
      <ChartWithActions
        title={tile.title || "tile"}
        answer={others ? onlyUnit(answer, unit) : answer}
        span={span}
        unit={unit}
        nameOf={nameOf}
        drawn={tile.kind as "lines" | "stacked" | "bars" | "horizon" | "heat"}
        limits={limits}
        marks={marks}
        place={dashboardId === undefined ? undefined : { dashboard: dashboardId, tile: savedTileId(tile.id) }}
        {...(reading && { reading })}
        height={Math.max(40, heightPx - (bare ? bareEdges : chartEdges))}
        labels={bare ? "none" : "narrow"}
      />
    </>
  );
}

const onlyUnit = (answer: ReadingAnswer, unit: string): ReadingAnswer => ({
  ...answer,
  lines: answer.lines.filter((line) => line.unit === unit),
});
