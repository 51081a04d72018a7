import { withoutUnknown } from "../../../../../core/forms/form.ts";
import { readingForm } from "../../../../../core/reading/reading-form.ts";
import type { ReactNode } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { type Picks, pickedReading, pickerTitle, pickWords } from "../../../../../core/dashboards/pickers.ts";
import type { ReadingAnswer } from "../../../../../core/reading/document.ts";
import { useReadings } from "../../../api/use-readings.ts";
import { withoutIdle } from "../../../../../core/reading/idle.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { usePicks } from "../picks-provider.tsx";
import type { TileData } from "./use-tile.ts";

const mostOffered = 4;

/**
 * A tile without data says why: nothing was gathered, or a pick leaves nothing over; then the pick can be taken back
 * here.
 */
export function EmptyTile({ tile, picks, data }: { tile: Tile; picks: Picks; data: TileData }): ReactNode {
  const { span } = useTime();
  const { pickers, hasTag, pick, choices } = usePicks();
  const concerned = data.by.filter(({ tag }) => tag !== undefined);
  // Each pick is left out in turn: where data comes, that pick is what excludes it.
  const tried = useReadings(
    concerned.map((picker) => {
      const without = pickedReading(
        withoutUnknown(readingForm, withoutIdle(tile.reading ?? { sentences: {} })),
        pickers,
        { ...picks, [picker.id]: [] },
        hasTag,
        tile.ignores,
      ).reading;
      return { ...without, points: 2, window: { from: Math.round(span.fromMs), to: Math.round(span.toMs) } };
    }),
  );
  const excluding = concerned.filter((_, i) => (tried[i]?.data?.lines.length ?? 0) > 0);
  const shown = excluding.length > 0 ? excluding : tried.some(({ isPending }) => isPending) ? [] : concerned;
  if (shown.length === 0)
    return <p className="text-[13px] text-quiet">{data.answer?.notes[0] ?? "Nothing was gathered in this window."}</p>;
  return (
    <div className="text-[13.5px]" data-excluded>
      {shown.map((picker) => (
        <p key={picker.id}>
          {excluding.length > 0 ? "Nothing here is of" : "Nothing was gathered in this window of"} {pickerTitle(picker)}{" "}
          {pickWords(picker, picks[picker.id] ?? [], choices(picker).length)}.{" "}
          {picker.choose === "several" && (
            <button type="button" className="word-link" onClick={() => pick(picker, [])}>
              Pick all of {pickerTitle(picker)}
            </button>
          )}
          {picker.choose === "one" &&
            valuesOf(tried[concerned.indexOf(picker)]?.data, picker.tag).map((value) => (
              <button key={value} type="button" className="word-link mr-3" onClick={() => pick(picker, [value])}>
                Pick {value}
              </button>
            ))}
        </p>
      ))}
    </div>
  );
}

/** Values of a tag of which there is data, a few of them. */
function valuesOf(answer: ReadingAnswer | undefined, tag: string | undefined): readonly string[] {
  return [...new Set(answer?.lines.flatMap(({ tags }) => (tag !== undefined && tags[tag] ? [tags[tag]] : [])))].slice(
    0,
    mostOffered,
  );
}
