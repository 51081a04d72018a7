import { Component, type ReactNode, useRef } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import type { Picks } from "../../../../../core/dashboards/pickers.ts";
import { useNearScreen } from "../../../ui/use-near-screen.ts";
import { TileBody } from "./tile-body.tsx";
import { TileState } from "./tile-state.tsx";

const headPx = 26;
const toolsPx = 28;

interface TileFrameProps {
  readonly tile: Tile;
  readonly picks: Picks;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly tools?: ReactNode;
  /** What stands at the end of its title. */
  readonly menu?: ReactNode;
  /** Only what it draws, for a miniature. */
  readonly bare?: boolean;
  /** Drawn whether it is near the screen or not. */
  readonly isWhole?: boolean;
}

/**
 * A tile's title over what it draws; no box around it. One far from the screen waits; one that fails does not take the
 * others with it.
 */
export function TileFrame({
  tile,
  picks,
  widthPx,
  heightPx,
  tools,
  menu,
  bare = false,
  isWhole = false,
}: TileFrameProps): ReactNode {
  const place = useRef<HTMLElement>(null);
  const isNear = useNearScreen(place) || isWhole;
  return (
    <section
      ref={place}
      aria-label={tile.title || "tile"}
      data-tile={tile.id}
      className={`group flex h-full flex-col overflow-hidden ${tools ? "border border-dashed border-hairline px-2" : ""}`}
    >
      {tools && <div style={{ minHeight: toolsPx }}>{tools}</div>}
      {!bare && (
        <div className="flex items-baseline gap-3 border-b border-hairline" style={{ height: headPx }}>
          <h2 className="min-w-0 grow truncate text-[14.5px] font-bold" title={tile.description}>
            {tile.title}
          </h2>
          <TileState tileId={tile.id} />
          {menu}
        </div>
      )}
      <div className="min-h-0 grow pt-1.5" data-tile-body>
        <TileBoundary key={`${tile.kind} ${JSON.stringify(tile.reading)}`}>
          {isNear && (
            <TileBody
              tile={tile}
              picks={picks}
              widthPx={widthPx}
              heightPx={heightPx - (bare ? 0 : headPx) - 8 - (tools ? toolsPx : 0)}
              bare={bare}
            />
          )}
        </TileBoundary>
      </div>
    </section>
  );
}

class TileBoundary extends Component<{ children: ReactNode }, { failure: Error | null }> {
  override state: { failure: Error | null } = { failure: null };

  static getDerivedStateFromError(failure: Error): { failure: Error } {
    return { failure };
  }

  override render(): ReactNode {
    return this.state.failure ? (
      <p role="alert" className="text-[13px] text-urgent">
        This tile failed: {this.state.failure.message}
      </p>
    ) : (
      this.props.children
    );
  }
}
