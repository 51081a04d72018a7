import { useCalled } from "../../../api/use-called.ts";
import { withoutUnknown } from "../../../../../core/forms/form.ts";
import { readingForm } from "../../../../../core/reading/reading-form.ts";
import { useMemo } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { drawsTime } from "../../../../../core/dashboards/tile-kinds.ts";
import { type Picker, type Picks, pickedReading } from "../../../../../core/dashboards/pickers.ts";
import { figuresOfLines, figuresOfTable, type ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import type { Line, ReadingAnswer } from "../../../../../core/reading/document.ts";
import { linesOfTable } from "../../../../../core/tables/table-lines.ts";
import { lineNames, tagsOfLines } from "../../../charts/line-names.ts";
import type { OpenReading } from "../../../sentence/reading-address.ts";
import { withoutIdle } from "../../../../../core/reading/idle.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { useReading } from "../../../sentence/use-reading.ts";
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
const keptStates = (reading: OpenReading): OpenReading => ({
  ...reading,
  sentences: Object.fromEntries(
    Object.entries(reading.sentences).map(([name, sentence]) => [name, { of_every: "last" as const, ...sentence }]),
  ),
});

/** The data of a tile in the window, with the picks that hold for it. */
export function useTile(tile: Tile, picks: Picks, points: number): TileData {
  const { span } = useTime();
  const { pickers, hasTag } = usePicks();
  const picked = useMemo(() => {
    if (!tile.reading) return { reading: undefined, by: [] };
    // What a newer version says of a reading stays in the document; this one asks what it knows.
    const plain = withoutUnknown(readingForm, withoutIdle(tile.reading));
    const open = tile.shows === "sum" ? { ...plain, sums: true } : plain;
    return pickedReading(
      tile.kind === "lines" ? { ...open, extremes: true } : tile.kind === "states" ? keptStates(open) : open,
      pickers,
      picks,
      hasTag,
      tile.ignores,
    );
  }, [tile, pickers, picks, hasTag]);
  const called = useCalled();
  const asked = useReading(picked.reading ?? nothing, span, points, picked.reading !== undefined);
  const { table } = tile;
  const ofTable = useMemo(
    () =>
      table && drawsTime(tile.kind)
        ? (linesOfTable(table, { from: span.fromMs, to: span.toMs }, points) ?? undefined)
        : undefined,
    [table, tile.kind, span, points],
  );
  const answer = table ? ofTable : asked.data;
  const per = useMemo(() => perOf(answer?.lines ?? [], tile.reading), [answer, tile.reading]);
  const nameOf = useMemo(
    () => lineNames(answer?.lines.filter(({ earlier }) => earlier === undefined) ?? [], per, called),
    [answer, per, called],
  );
  const figures = useMemo(
    () =>
      table
        ? figuresOfTable(table, tile.shows ?? "rows")
        : answer && figuresOfLines(answer.lines, tile.shows ?? "last", rowNames(answer.lines, per, called)),
    [table, tile.shows, answer, per, called],
  );
  return { answer, error: table ? null : asked.error, reading: picked.reading, by: picked.by, nameOf, figures };
}

/**
 * The tags that name lines: those by which they are made, without those that are the same in all, the one picked
 * machine say.
 */
function perOf(lines: readonly Line[], reading: OpenReading | undefined): readonly string[] | undefined {
  const per = reading && tagsOfLines(reading);
  const differing = per?.filter((tag) => new Set(lines.map(({ tags }) => tags[tag])).size > 1);
  return differing && differing.length > 0 ? differing : per;
}

/** Rows hold several sentences side by side: none of those is part of a row's name. */
function rowNames(
  lines: readonly Line[],
  per: readonly string[] | undefined,
  called: (machine: string) => string,
): (line: Line) => string {
  const named = lineNames(
    lines.filter(({ earlier }) => earlier === undefined).map((line) => ({ ...line, of: "" })),
    per,
    called,
  );
  return (line) => named({ ...line, of: "" }) || (line.of === "figure" ? "" : line.of);
}
