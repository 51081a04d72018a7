/** What a way of drawing lines over time is, wherever lines are drawn. */
interface Drawing {
  /** "drawn as ..." */
  readonly words: string;
  /** How its lines lie: those in rows have no scale beside the plot. */
  readonly lie: "beside one another" | "on one another" | "in rows";
}

/** A way of drawing lines over time; core/drawing/elements.ts draws it. */
export type Drawn = "lines" | "stacked" | "bars" | "horizon" | "heat";

export const drawings: Readonly<Record<Drawn, Drawing>> = {
  lines: { words: "lines", lie: "beside one another" },
  stacked: { words: "areas on one another", lie: "on one another" },
  bars: { words: "bars", lie: "on one another" },
  horizon: { words: "horizon strips", lie: "in rows" },
  heat: { words: "a heat map", lie: "in rows" },
};
export const drawnNames = Object.keys(drawings) as Drawn[];

export const inRows = (drawn: Drawn): boolean => drawings[drawn].lie === "in rows";
export const onOneAnother = (drawn: Drawn): boolean => drawings[drawn].lie === "on one another";
