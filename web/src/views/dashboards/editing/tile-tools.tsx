import { takesFocus } from "../../../ui/made.ts";
import type { KeyboardEvent, ReactNode } from "react";
import {
  copiedTile,
  movedTile,
  resizedTile,
  type Side,
  withoutTile,
} from "../../../../../core/dashboards/arrange-tiles.ts";
import type { Dashboard, Tile } from "../../../../../core/dashboards/dashboard.ts";
import { ToDashboard } from "../../../shared/dashboards/to-dashboard.tsx";

const sides: Readonly<Record<string, Side>> = {
  ArrowLeft: "left",
  ArrowRight: "right",
  ArrowUp: "up",
  ArrowDown: "down",
};

interface TileToolsProps {
  readonly tile: Tile;
  readonly dashboard: Dashboard;
  readonly dashboardId: number;
  readonly onChange: (dashboard: Dashboard) => void;
  readonly onEdit: () => void;
}

/**
 * What is done to a tile while a dashboard is edited. Its handle is dragged, or moves it by the arrow keys; with Shift
 * they resize.
 */
export function TileTools({ tile, dashboard, dashboardId, onChange, onEdit }: TileToolsProps): ReactNode {
  const name = tile.title || "this tile";
  const onKey = (event: KeyboardEvent) => {
    const side = sides[event.key];
    if (!side) return;
    event.preventDefault();
    onChange((event.shiftKey ? resizedTile : movedTile)(dashboard, tile.id, side));
  };
  return (
    <p className="flex items-baseline gap-3 pt-0.5 text-[13px]">
      <button
        type="button"
        data-tile-handle
        onKeyDown={onKey}
        aria-label={`move ${name}: arrow keys; with Shift resize`}
        className="cursor-grab text-quiet active:cursor-grabbing"
      >
        move
      </button>
      <button
        ref={takesFocus(`tile ${tile.id}`)}
        type="button"
        className="word-link"
        onClick={onEdit}
        aria-label={`change ${name}`}
      >
        change
      </button>
      <button
        type="button"
        className="word-link"
        onClick={() => onChange(copiedTile(dashboard, tile.id))}
        aria-label={`copy ${name}`}
      >
        copy
      </button>
      <ToDashboard
        tile={tile}
        label={`move ${name} to another dashboard`}
        words="to another …"
        but={dashboardId}
        onDone={() => onChange(withoutTile(dashboard, tile.id))}
      />
      <button
        type="button"
        className="word-link"
        onClick={() => onChange(withoutTile(dashboard, tile.id))}
        aria-label={`remove ${name}`}
      >
        remove
      </button>
    </p>
  );
}
