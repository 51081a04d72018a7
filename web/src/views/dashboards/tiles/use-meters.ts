import { useEffect, useMemo, useRef } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { type Meters, metersOf } from "../../../../../core/dashboards/meters.ts";
import type { ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";

/** The meters of a tile; what is shown keeps its place from drawing to drawing until another has clearly passed it. */
export function useMeters({ meter, limits, most }: Tile, figures: ShownFigures): Meters {
  const stood = useRef<readonly string[]>([]);
  const made = useMemo(() => metersOf(figures, meter, limits, most, stood.current), [figures, meter, limits, most]);
  useEffect(() => {
    stood.current = made.meters.map(({ key }) => key);
  }, [made]);
  return made;
}
