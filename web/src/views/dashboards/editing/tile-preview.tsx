import { type ReactNode, useRef } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { useWidth } from "../../../ui/use-width.ts";
import { usePicks } from "../picks-provider.tsx";
import { TileFrame } from "../tiles/tile-frame.tsx";

const heightPx = 300;

/** The tile as it will stand, as wide as there is room. */
export function TilePreview({ tile }: { tile: Tile }): ReactNode {
  const { picks } = usePicks();
  const place = useRef<HTMLDivElement>(null);
  const widthPx = useWidth(place);
  return (
    <div ref={place} className="overflow-hidden" style={{ height: heightPx + 10 }} data-preview-tile>
      <TileFrame tile={tile} picks={picks} widthPx={widthPx} heightPx={heightPx} isWhole />
    </div>
  );
}
