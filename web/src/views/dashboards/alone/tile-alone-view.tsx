import { ViewTitle } from "../../../ui/view-title.tsx";
import { tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useRef } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Dashboard, Tile } from "../../../../../core/dashboards/dashboard.ts";
import { readyMade } from "../../../../../core/dashboards/ready-made.ts";
import { dashboardQuery } from "../../../api/queries.ts";
import { useWidth } from "../../../ui/use-width.ts";
import { PickersBar } from "../pickers-bar.tsx";
import { PicksProvider } from "../picks-provider.tsx";
import { useShownTiles } from "../shown-tiles.ts";
import { TileFrame } from "../tiles/tile-frame.tsx";
import { useStartWindow } from "../use-start-window.ts";
import { HowMade } from "./how-made.tsx";
import { TileActions } from "./tile-actions.tsx";

const usualPx = 400;

/** One tile of a saved dashboard, alone. */
export function TileAloneView(): ReactNode {
  const { id, tile } = useParams();
  const saved = useQuery(dashboardQuery(Number(id)));
  if (saved.error)
    return (
      <p role="alert" className="py-6 text-urgent">
        {saved.error.message}
      </p>
    );
  if (!saved.data) return <p className="py-6 text-quiet">reading …</p>;
  return (
    <PicksProvider document={saved.data.document} id={saved.data.id}>
      <Alone document={saved.data.document} id={tile ?? ""} base={`/dashboards/${id}`} />
    </PicksProvider>
  );
}

/** One tile of a ready-made dashboard, alone. */
export function ReadyTileAloneView(): ReactNode {
  const { id, tile } = useParams();
  const document = readyMade.find((one) => one.id === id)?.document;
  if (!document) return <p className="py-6">No ready-made dashboard has this name.</p>;
  return (
    <PicksProvider document={document}>
      <Alone document={document} id={tile ?? ""} base={`/dashboards/ready-made/${id}`} />
    </PicksProvider>
  );
}

/** The tile at full size, what can be done with it, and how it was made. */
function Alone({ document, id, base }: { document: Dashboard; id: string; base: string }): ReactNode {
  const [search] = useSearchParams();
  useStartWindow(document);
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const { shown, picksOf } = useShownTiles(document.tiles);
  const tile: Tile | undefined = shown.find((one) => one.id === id);
  const back = (
    <Link to={`${base}?${search.toString()}`} className="word-link">
      {document.title}
    </Link>
  );
  if (!tile) return <p className="py-6">This tile is not there any more. Back to {back}.</p>;
  const height = tileKinds[tile.kind].alonePx ?? usualPx;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <ViewTitle words={tile.title || "A tile without a title"} />
        <p className="text-quiet">
          of {back}
          {tile.description && `. ${tile.description}`}
        </p>
        <TileActions tile={tile} picks={picksOf(tile)} picture={place} />
      </div>
      <PickersBar />
      <div ref={place} style={{ height }} data-alone>
        <TileFrame tile={tile} picks={picksOf(tile)} widthPx={width} heightPx={height} isWhole />
      </div>
      <HowMade tile={tile} picks={picksOf(tile)} />
    </>
  );
}
