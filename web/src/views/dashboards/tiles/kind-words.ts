import type { TileKind } from "../../../../../core/dashboards/dashboard.ts";

/** How a tile is drawn, in words. */
export const kindWords: Readonly<Record<TileKind, string>> = {
  lines: "lines",
  stacked: "areas on one another",
  bars: "bars",
  horizon: "horizon strips",
  heat: "heat map",
  states: "states over time",
  number: "big number",
  meter: "meters",
  dial: "dial",
  table: "table",
  top: "top list",
  events: "events",
  note: "note",
};
