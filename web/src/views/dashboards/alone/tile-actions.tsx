import { May } from "../../../shared/people/may.tsx";
import { makeRule } from "../../../../../core/api/rules.ts";
import { withoutUnknown } from "../../../../../core/forms/form.ts";
import { readingForm } from "../../../../../core/reading/reading-form.ts";
import { type ReactNode, type RefObject, useState } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { drawsTime } from "../../../../../core/dashboards/tile-kinds.ts";
import type { Picks } from "../../../../../core/dashboards/pickers.ts";
import { tableOfFigures } from "../../../../../core/dashboards/table-of-figures.ts";
import { writeTable } from "../../../../../core/tables/write-table.ts";
import { chartCsv } from "../../../charts/chart-csv.ts";
import { chartLines } from "../../../charts/chart-lines.ts";
import { drawnNames } from "../../../../../core/drawing/drawings.ts";
import { useGo } from "../../../time/use-go.ts";
import { readingAddress } from "../../../sentence/reading-address.ts";
import { saveFile } from "../../../ui/save-file.ts";
import { newRuleAddress } from "../../../shared/rules/rule-address.ts";
import { usePicks } from "../picks-provider.tsx";
import { savedTileId } from "../use-rules-by-tile.ts";
import { ToDashboard } from "../../../shared/dashboards/to-dashboard.tsx";
import { alonePoints, useTile } from "../tiles/use-tile.ts";

interface TileActionsProps {
  readonly tile: Tile;
  readonly picks: Picks;
  /** What a picture is taken of. */
  readonly picture: RefObject<HTMLElement | null>;
}

/** What can be done with one tile: a picture, its numbers, its sentences in Counters, a copy elsewhere. */
export function TileActions({ tile, picks, picture }: TileActionsProps): ReactNode {
  const go = useGo();
  const { dashboardId } = usePicks();
  const data = useTile(tile, picks, alonePoints);
  const [fault, setFault] = useState<string | null>(null);
  const name = tile.title || "tile";
  const savePicture = async () => {
    if (!picture.current) return;
    const { toBlob } = await import("html-to-image");
    const paper = getComputedStyle(document.documentElement).getPropertyValue("--paper");
    const made = await toBlob(picture.current, {
      pixelRatio: 2,
      backgroundColor: paper,
      filter: (node) => !(node instanceof Element && node.classList.contains("not-in-print")),
    }).catch(() => null);
    if (made) saveFile(`${name}.png`, made);
    else setFault("The picture could not be made by this browser; its numbers can be saved, or the page printed.");
  };
  const csv = (): string | undefined => {
    if (tile.table) return writeTable(tile.table);
    if (data.answer && drawsTime(tile.kind)) return chartCsv(data.answer, chartLines(data.answer.lines, data.nameOf));
    return data.figures && writeTable(tableOfFigures(data.figures));
  };
  const drawn = drawnNames.find((name) => name === tile.kind) ?? "lines";
  const numbers = csv();
  return (
    <div className="not-in-print ml-auto flex flex-wrap items-baseline gap-x-4">
      <button type="button" className="word-link" onClick={() => void savePicture()}>
        save as picture
      </button>
      {numbers !== undefined && (
        <button
          type="button"
          className="word-link"
          onClick={() => saveFile(`${name}.csv`, new Blob([numbers], { type: "text/csv" }))}
        >
          save numbers (CSV)
        </button>
      )}
      {data.reading && (
        <button
          type="button"
          className="word-link"
          onClick={() => go(readingAddress(data.reading as NonNullable<typeof data.reading>, drawn))}
        >
          change it in Counters
        </button>
      )}
      <May ask={makeRule}>
        {tile.reading && (
          <button
            type="button"
            className="word-link"
            onClick={() =>
              go(
                newRuleAddress(
                  withoutUnknown(readingForm, tile.reading as NonNullable<typeof tile.reading>),
                  dashboardId === undefined ? undefined : { dashboard: dashboardId, tile: savedTileId(tile.id) },
                  tile.title,
                ),
              )
            }
          >
            tell me when …
          </button>
        )}
      </May>
      <ToDashboard tile={tile} label={`copy ${name} to a dashboard`} words="copy to a dashboard …" />
      {fault && (
        <p role="alert" className="w-full text-right text-[13px] text-urgent">
          {fault}
        </p>
      )}
    </div>
  );
}
