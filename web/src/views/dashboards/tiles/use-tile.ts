import { useMemo } from "react";
import { drawsTime, type Tile } from "../../../../../core/dashboards/dashboard.ts";
import { type Picker, type Picks, pickedReading } from "../../../../../core/dashboards/pickers.ts";
import { figuresOfLines, figuresOfTable, type ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import type { Line, ReadingAnswer } from "../../../../../core/reading/document.ts";
import { linesOfTable } from "../../../../../core/tables/table-lines.ts";
import { lineNames, tagsOfLines } from "../../../charts/line-names.ts";
import type { OpenReading } from "../../../sentence/reading-address.ts";
import { withoutIdle } from "../../../sentence/said.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { useReading } from "../../machine/use-reading.ts";
import { usePicks } from "../picks-provider.tsx";

/** What a tile shows, of its reading or of its own table. */
export interface TileData {
  readonly answer: ReadingAnswer | undefined;
  readonly error: Error | null;
  /** Within the picks; undefined where a table is drawn. */
  readonly reading: OpenReading | undefined;
  /** Pickers that have a say in it. */
  readonly by: readonly Picker[];
  readonly nameOf: (line: Line) => string;
  readonly figures: ShownFigures | undefined;
}

/** Of a tile alone: its picture and its numbers ask alike, so that one answer serves both. */
export const alonePoints = 600;
const nothing: OpenReading = { sentences: { a: { counter: "" } } };
/** A line of changing states keeps the last one of each step: a mean of two states is none. */
const keptStates = (reading: OpenReading): OpenReading => ({ ...reading, sentences: Object.fromEntries(Object.entries(reading.sentences).map(([name, sentence]) => [name, { of_every: "last" as const, ...sentence }])) });

/** The data of a tile in the window, with the picks that hold for it. */
export function useTile(tile: Tile, picks: Picks, points: number): TileData {
  const { span } = useTime();
  const { pickers, hasTag } = usePicks();
  const picked = useMemo(() => {
    if (!tile.reading) return { reading: undefined, by: [] };
    const open = withoutIdle(tile.reading);
    return pickedReading(tile.kind === "lines" ? { ...open, extremes: true } : tile.kind === "states" ? keptStates(open) : open, pickers, picks, hasTag, tile.ignores);
  }, [tile, pickers, picks, hasTag]);
  const asked = useReading(picked.reading ?? nothing, span, points, picked.reading !== undefined);
  const { table } = tile;
  const ofTable = useMemo(() => (table && drawsTime(tile.kind) ? (linesOfTable(table, { from: span.fromMs, to: span.toMs }, points) ?? undefined) : undefined), [table, tile.kind, span, points]);
  const answer = table ? ofTable : asked.data;
  const nameOf = useMemo(() => lineNames(answer?.lines.filter(({ earlier }) => earlier === undefined) ?? [], tile.reading ? tagsOfLines(tile.reading) : undefined), [answer, tile.reading]);
  const figures = useMemo(() => (table ? figuresOfTable(table, tile.shows ?? "rows") : answer && figuresOfLines(answer.lines, tile.shows ?? "last", nameOf)), [table, tile.shows, answer, nameOf]);
  return { answer, error: table ? null : asked.error, reading: picked.reading, by: picked.by, nameOf, figures };
}
