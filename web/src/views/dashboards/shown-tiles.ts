import { useMemo } from "react";
import type { Tile } from "../../../../core/dashboards/dashboard.ts";
import type { Picks } from "../../../../core/dashboards/pickers.ts";
import { shownTiles } from "../../../../core/dashboards/repeat-tiles.ts";
import { usePicks } from "./picks-provider.tsx";

/** A dashboard's tiles as they are shown with the present picks, and the picks that hold for each. */
export function useShownTiles(tiles: readonly Tile[]): {
  readonly shown: readonly Tile[];
  readonly picksOf: (tile: Tile) => Picks;
} {
  const { pickers, picks, choices } = usePicks();
  return useMemo(() => {
    const all = shownTiles(tiles, pickers, picks, choices);
    const own = new Map(all.map((one) => [one.tile.id, one.picks]));
    return { shown: all.map(({ tile }) => tile), picksOf: ({ id }) => own.get(id) ?? picks };
  }, [tiles, pickers, picks, choices]);
}
