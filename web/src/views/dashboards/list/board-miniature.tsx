import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useRef } from "react";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";
import { dashboardQuery } from "../../../api/queries.ts";
import { useNearScreen } from "../../../ui/use-near-screen.ts";
import { PicksProvider } from "../picks-provider.tsx";
import { useShownTiles } from "../shown-tiles.ts";
import { TileSheet } from "../tile-sheet.tsx";

/** Of the sheet that is shown smaller; its first rows are seen. */
const sheet = { width: 560, height: 315, rows: 6 } as const;
const miniaturePx = { width: 320, height: (320 * sheet.height) / sheet.width } as const;

/**
 * A dashboard's first tiles with their present data, small. It is nothing to be pressed or read out: its title stands
 * beside it.
 */
export function SavedMiniature({ id }: { id: number }): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const isNear = useNearScreen(place);
  const saved = useQuery({ ...dashboardQuery(id), enabled: isNear, staleTime: 30_000 });
  return (
    <div ref={place} style={miniaturePx}>
      {saved.data && <Miniature document={saved.data.document} />}
    </div>
  );
}

export function ReadyMiniature({ document }: { document: Dashboard }): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const isNear = useNearScreen(place);
  return (
    <div ref={place} style={miniaturePx}>
      {isNear && <Miniature document={document} />}
    </div>
  );
}

function Miniature({ document }: { document: Dashboard }): ReactNode {
  return (
    <div inert aria-hidden="true" className="overflow-hidden border border-hairline" style={miniaturePx} data-miniature>
      <div
        style={{
          width: sheet.width,
          height: sheet.height,
          transform: `scale(${miniaturePx.width / sheet.width})`,
          transformOrigin: "0 0",
        }}
        className="p-2"
      >
        <PicksProvider document={document}>
          <FirstTiles document={document} />
        </PicksProvider>
      </div>
    </div>
  );
}

function FirstTiles({ document }: { document: Dashboard }): ReactNode {
  const { shown, picksOf } = useShownTiles(document.tiles);
  return (
    <TileSheet
      tiles={shown.filter(({ place }) => place.y < sheet.rows)}
      picksOf={picksOf}
      widthPx={sheet.width - 16}
      isWhole
      bare
    />
  );
}
