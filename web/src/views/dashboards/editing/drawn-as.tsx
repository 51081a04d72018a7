import type { ReactNode } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { drawsReading, drawsTime, tileKindNames, tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import { usePicks } from "../picks-provider.tsx";
import { TileFrame } from "../tiles/tile-frame.tsx";

/** Of a miniature, px. */
const miniature = { width: 240, height: 140 } as const;

/** How a tile is drawn, chosen among miniatures of its own data: one row, that is moved along where it is longer. */
export function DrawnAs({ tile, onKind }: { tile: Tile; onKind: (kind: Tile["kind"]) => void }): ReactNode {
  const { picks } = usePicks();
  const hasTimes = tile.reading !== undefined || (tile.table?.columns.some(({ kind }) => kind === "time") ?? false);
  const kinds = tileKindNames.filter((kind) => drawsReading(kind) && (hasTimes || !drawsTime(kind)));
  return (
    <fieldset className="mt-3 min-w-0 border-t border-hairline pt-2">
      <legend className="pr-2 text-[13px] text-quiet">Drawn as</legend>
      <div className="flex gap-3 overflow-x-auto pb-2">
        {kinds.map((kind) => (
          <label
            key={kind}
            className={`block shrink-0 cursor-pointer border p-1.5 ${tile.kind === kind ? "border-act" : "border-hairline"}`}
            style={{ width: miniature.width }}
          >
            <span className="flex items-center gap-2 text-[13px]">
              <input
                type="radio"
                name="kind"
                className="accent-act"
                checked={tile.kind === kind}
                onChange={() => onKind(kind)}
              />
              {tileKinds[kind].words}
            </span>
            <div
              inert
              aria-hidden="true"
              className="pointer-events-none mt-1 overflow-hidden"
              style={{ height: miniature.height }}
            >
              <TileFrame
                tile={{ ...tile, kind, title: "" }}
                picks={picks}
                widthPx={miniature.width - 14}
                heightPx={miniature.height}
                bare
              />
            </div>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
