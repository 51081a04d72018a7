import { Component, type ReactNode } from "react";
import type { Tile } from "../../../../core/dashboards/dashboard.ts";
import { TileBody } from "./tile-body.tsx";

const headPx = 26;
const toolsPx = 28;

interface TileFrameProps {
  readonly tile: Tile;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly tools?: ReactNode;
  /** Only what it draws, for a miniature. */
  readonly bare?: boolean;
}

/** A tile's title over what it draws; no box around it. One that fails does not take the others with it. */
export function TileFrame({ tile, widthPx, heightPx, tools, bare = false }: TileFrameProps): ReactNode {
  return (
    <section aria-label={tile.title || "tile"} data-tile={tile.id} className={`flex h-full flex-col overflow-hidden ${tools ? "border border-dashed border-hairline px-2" : ""}`}>
      {tools && <div style={{ minHeight: toolsPx }}>{tools}</div>}
      {!bare && <h2 className="truncate border-b border-hairline text-[14.5px] font-bold" style={{ height: headPx }} title={tile.description}>{tile.title}</h2>}
      <div className="min-h-0 grow pt-1.5">
        <TileBoundary key={`${tile.kind} ${JSON.stringify(tile.reading)}`}>
          <TileBody tile={tile} widthPx={widthPx} heightPx={heightPx - (bare ? 0 : headPx) - 8 - (tools ? toolsPx : 0)} bare={bare} />
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
    return this.state.failure ? <p role="alert" className="text-[13px] text-urgent">This tile failed: {this.state.failure.message}</p> : this.props.children;
  }
}
