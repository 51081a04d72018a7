import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { drawsReading, type Tile } from "../../../../core/dashboards/dashboard.ts";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import { present } from "../../../../core/units/present.ts";
import { eventsQuery } from "../../api/queries.ts";
import { lineNames, tagsOfLines } from "../../charts/line-names.ts";
import { palette } from "../../charts/palette.ts";
import { Strip } from "../../charts/strip.tsx";
import { TimeChart } from "../../charts/time-chart.tsx";
import { useTheme } from "../../frame/theme.ts";
import { withoutIdle } from "../../sentence/said.ts";
import { nearMomentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { useReading } from "../machine/use-reading.ts";

/** What a chart needs beside its plot, px: the axis below, and the words under the labels. */
const chartEdges = 48;
const bareEdges = 30;
const pointsPerPx = 0.6;

interface TileBodyProps {
  readonly tile: Tile;
  readonly widthPx: number;
  readonly heightPx: number;
  /** A chart without its labels, for a miniature. */
  readonly bare?: boolean;
}

/** The inside of a tile. */
export function TileBody({ tile, widthPx, heightPx, bare = false }: TileBodyProps): ReactNode {
  if (tile.kind === "note") return <p className="h-full overflow-auto whitespace-pre-wrap">{tile.text}</p>;
  if (tile.kind === "events") return <EventRows />;
  return tile.reading && drawsReading(tile.kind) ? <ReadTile tile={tile} reading={withoutIdle(tile.reading)} widthPx={widthPx} heightPx={heightPx} bare={bare} /> : <p className="text-quiet">This tile has nothing to draw yet.</p>;
}

function ReadTile({ tile, reading, widthPx, heightPx, bare }: Required<TileBodyProps> & { reading: NonNullable<Tile["reading"]> }): ReactNode {
  const { span } = useTime();
  const isChart = tile.kind !== "number" && tile.kind !== "table" && tile.kind !== "top";
  const points = Math.max(60, Math.min(600, Math.round((widthPx * pointsPerPx) / 60) * 60));
  const answer = useReading(tile.kind === "lines" ? { ...reading, extremes: true } : reading, span, points);
  const failure = answer.error && <p role="alert" className="text-[13px] text-urgent">{answer.error.message}</p>;
  const nameOf = lineNames(answer.data?.lines.filter(({ earlier }) => earlier === undefined) ?? [], tagsOfLines(reading));
  if (answer.data?.lines.length === 0) return <>{failure}<p className="text-[13px] text-quiet">{answer.data.notes[0] ?? "Nothing was gathered in this window."}</p></>;
  if (isChart) {
    const unit = answer.data?.lines[0]?.unit ?? "1";
    const others = answer.data && [...new Set(answer.data.lines.map((line) => line.unit))].length > 1;
    const drawn = tile.kind as "lines" | "stacked" | "bars" | "horizon" | "heat";
    return (
      <>
        {failure}
        {others && <p className="text-[13px] text-quiet">Its sentences have different units, which one scale cannot hold; drawn is the first.</p>}
        <TimeChart title={tile.title || "tile"} answer={others ? onlyUnit(answer.data as ReadingAnswer, unit) : answer.data} span={span} unit={unit} nameOf={nameOf} drawn={drawn} reading={reading} height={Math.max(40, heightPx - (bare ? bareEdges : chartEdges))} labels={bare ? "none" : "narrow"} />
      </>
    );
  }
  if (!answer.data) return failure || <p className="text-quiet">reading …</p>;
  if (tile.kind === "number") return <NumberTile answer={answer.data} nameOf={nameOf} heightPx={heightPx} />;
  const rows = [...answer.data.lines].sort((a, b) => (b.last ?? Number.NEGATIVE_INFINITY) - (a.last ?? Number.NEGATIVE_INFINITY));
  return tile.kind === "top" ? <TopRows rows={rows} nameOf={nameOf} /> : <LineRows rows={rows} nameOf={nameOf} title={tile.title} />;
}

/** The last value of the first line, large, over its strip. Which line it is stands beside it. */
function NumberTile({ answer, nameOf, heightPx }: { answer: ReadingAnswer; nameOf: (line: Line) => string; heightPx: number }): ReactNode {
  const { span } = useTime();
  const theme = useTheme();
  const line = answer.lines[0] as Line;
  const shown = present(line.last, line.unit);
  return (
    <div className="flex h-full flex-col">
      <p className="figure text-[34px] leading-tight">
        {shown.text}
        <span className="ml-1 text-[17px] text-quiet">{shown.unit}</span>
      </p>
      <p className="truncate text-[13px] text-quiet">{nameOf(line)}, last{answer.lines.length > 1 && `; the first of ${answer.lines.length} lines`}</p>
      <div className="mt-auto"><Strip line={line} firstMs={answer.from} stepMs={answer.stepMs} span={span} most={Math.max(line.max ?? 1, Number.MIN_VALUE)} height={Math.max(16, Math.min(48, heightPx - 90))} colour={palette[theme][0] as string} /></div>
    </div>
  );
}

function TopRows({ rows, nameOf }: { rows: readonly Line[]; nameOf: (line: Line) => string }): ReactNode {
  const longest = Math.max(...rows.map(({ last }) => last ?? 0), Number.MIN_VALUE);
  return (
    <ol className="h-full overflow-auto text-[13.5px]">
      {rows.map((line) => {
        const shown = present(line.last, line.unit);
        return (
          <li key={`${line.of} ${JSON.stringify(line.tags)} ${line.earlier ?? ""}`} className="grid grid-cols-[minmax(0,1fr)_40%_5rem] items-center gap-2 leading-[21px]">
            <span className="truncate">{nameOf(line)}</span>
            <span aria-hidden="true" className="h-1.5 border-b border-hairline"><span className="block h-full bg-act" style={{ width: `${Math.max(0, Math.min(100, (100 * (line.last ?? 0)) / longest))}%` }} /></span>
            <span className="figure text-right">{shown.text}<span className="ml-0.5 text-quiet">{shown.unit}</span></span>
          </li>
        );
      })}
    </ol>
  );
}

const statistics = ["last", "min", "mean", "max"] as const;

function LineRows({ rows, nameOf, title }: { rows: readonly Line[]; nameOf: (line: Line) => string; title: string }): ReactNode {
  return (
    <div className="h-full overflow-auto">
      <table className="w-full text-[13.5px]">
        <caption className="sr-only">{title}</caption>
        <thead>
          <tr className="text-quiet">
            <th className="text-left font-normal">line</th>
            {statistics.map((name) => <th key={name} className="pl-3 text-right font-normal">{name}</th>)}
          </tr>
        </thead>
        <tbody>
          {rows.map((line) => (
            <tr key={`${line.of} ${JSON.stringify(line.tags)} ${line.earlier ?? ""}`} className="border-t border-hairline">
              <th scope="row" className="max-w-0 truncate text-left font-normal">{nameOf(line)}</th>
              {statistics.map((name) => {
                const shown = present(line[name], line.unit);
                return <td key={name} className="figure pl-3 text-right whitespace-nowrap">{shown.text}<span className="ml-0.5 text-[12px] text-quiet">{shown.unit}</span></td>;
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What happened in the window, the newest first. */
function EventRows(): ReactNode {
  const { span, nowMs } = useTime();
  const events = useQuery(eventsQuery(Math.floor(span.fromMs / 10_000) * 10_000, Math.ceil(span.toMs / 10_000) * 10_000));
  if (events.error) return <p role="alert" className="text-[13px] text-urgent">{events.error.message}</p>;
  if (!events.data) return <p className="text-quiet">reading …</p>;
  if (events.data.length === 0) return <p className="text-[13px] text-quiet">Nothing happened in this window.</p>;
  return (
    <ul className="h-full overflow-auto text-[13.5px]">
      {[...events.data].reverse().map((event) => (
        <li key={event.id} className="grid grid-cols-[5.5rem_minmax(0,1fr)] gap-2 border-b border-hairline py-0.5">
          <span className="figure text-quiet">{nearMomentText(event.fromMs, nowMs)}</span>
          <span>{event.text}{event.machine && <span className="text-quiet"> · {event.machine}</span>}</span>
        </li>
      ))}
    </ul>
  );
}

const onlyUnit = (answer: ReadingAnswer, unit: string): ReadingAnswer => ({ ...answer, lines: answer.lines.filter((line) => line.unit === unit) });
