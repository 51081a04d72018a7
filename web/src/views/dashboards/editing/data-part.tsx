import { proposedMeter } from "../../../../../core/dashboards/proposed-meter.ts";
import { useFindFigures } from "../../../shared/bands/use-find-figures.ts";
import { showsFigures, tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import type { ReactNode } from "react";
import type { ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { tableOfFigures } from "../../../../../core/dashboards/table-of-figures.ts";
import { ReadingEditor } from "../../../sentence/reading-editor.tsx";
import { OwnTable } from "./own-table.tsx";
import type { TileChange } from "./tile-change.ts";

interface DataPartProps {
  readonly tile: Tile;
  readonly stepMs: number | undefined;
  /** Single figures of what is drawn now. */
  readonly figures: ShownFigures | undefined;
  readonly onChange: (change: TileChange) => void;
}

/** What feeds a tile: sentences, or a table of one's own. */
export function DataPart({ tile, stepMs, figures, onChange }: DataPartProps): ReactNode {
  const named = useFindFigures();
  const { draws } = tileKinds[tile.kind];
  if (tile.reading) {
    return (
      <div className="mt-2">
        <ReadingEditor
          figures={named}
          reading={tile.reading}
          drawn={null}
          stepMs={stepMs}
          onChange={(reading) => onChange({ reading })}
        />
        {draws !== "text" && (
          <p className="mt-1 text-[13px] text-quiet">
            or instead of counters{" "}
            <button
              type="button"
              className="word-link"
              disabled={!figures || figures.rows.length === 0}
              onClick={() =>
                figures &&
                onChange({ reading: undefined, table: tableOfFigures(figures), kind: "meter", shows: undefined })
              }
            >
              a table of their present values
            </button>
          </p>
        )}
      </div>
    );
  }
  if (draws === "text") {
    return (
      <p className="mt-2">
        <button
          type="button"
          className="word-link text-[13.5px]"
          onClick={() =>
            onChange({
              reading: {
                sentences: {
                  a: {
                    counter: "system.memory.usage",
                    where: [{ tag: "state", is: ["used", "shared"] }],
                    lines: "together",
                    combine: "sum",
                  },
                },
              },
            })
          }
        >
          live figures from a sentence …
        </button>
      </p>
    );
  }
  return (
    <div className="mt-2">
      <OwnTable
        table={tile.table}
        onChange={(table) => onChange({ table })}
        onPaste={(table) =>
          onChange({ table, ...(showsFigures(tile.kind) && { meter: { ...tile.meter, ...proposedMeter(table) } }) })
        }
      />
    </div>
  );
}
