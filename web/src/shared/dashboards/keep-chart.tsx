import { type ReactNode, useState } from "react";
import { saveDashboard } from "../../../../core/api/dashboards.ts";
import { May } from "../people/may.tsx";
import { type NewTile, ToDashboard } from "./to-dashboard.tsx";

/**
 * Keeps what a chart shows on a dashboard, one that there is or a new one, in one step. The choice is made when it is
 * first wanted: a page has many charts.
 */
export function KeepChart({ tile }: { tile: NewTile }): ReactNode {
  const [isWanted, setIsWanted] = useState(false);
  const label = `keep ${tile.title} on a dashboard`;
  return (
    <May ask={saveDashboard}>
      <span className="text-[12px] leading-4">
        {isWanted ? (
          <ToDashboard tile={tile} label={label} words="keep …" isOpen />
        ) : (
          <button
            type="button"
            className="word-link"
            aria-haspopup="dialog"
            aria-expanded={false}
            aria-label={`${label}: keep …`}
            onClick={() => setIsWanted(true)}
          >
            keep …
          </button>
        )}
      </span>
    </May>
  );
}
