import { type Drawn, drawings } from "../drawing/drawings.ts";

/** What a kind of tile is: its words, what it draws, and what can be said of its looks. */
interface TileKindEntry {
  readonly words: string;
  /**
   * Values over time; single figures, one a line, of which is chosen; a table; what happened; a text, in which live
   * figures may stand; or an answer of planning.
   */
  readonly draws: "time" | "figures" | "table" | "events" | "text" | "plan";
  /** Of a new one, in columns and rows. */
  readonly size: readonly [width: number, height: number];
  /** Whether limits are drawn on it. */
  readonly limits?: true;
  /** Whether it shows only so many figures. */
  readonly most?: true;
  /** Whether its figures stand on a scale: upright or lying, or round. */
  readonly scale?: "straight" | "round";
  /** Whether values have words. */
  readonly states?: true;
  /** How high it is when it stands alone, px. */
  readonly alonePx?: number;
}

const chart = { draws: "time", size: [6, 6] } as const;

/** How a tile is drawn; web/src/views/dashboards/tiles/drawn-tiles.tsx draws it. */
export type TileKind = Drawn | "number" | "meter" | "dial" | "table" | "top" | "states" | "events" | "note" | PlanKind;
/** Those that show an answer of planning. */
export type PlanKind = "energy" | "cost" | "space" | "fit" | "month";
/** Those that draw a reading or a table. */
export type ReadingTileKind = Exclude<TileKind, "events" | "note" | PlanKind>;

/** Every kind of tile, in the order in which one is chosen. */
export const tileKinds: Readonly<Record<TileKind, TileKindEntry>> = {
  lines: { ...chart, words: drawings.lines.words, limits: true },
  stacked: { ...chart, words: drawings.stacked.words, limits: true },
  bars: { ...chart, words: drawings.bars.words, limits: true },
  horizon: { ...chart, words: drawings.horizon.words },
  heat: { ...chart, words: drawings.heat.words },
  number: { draws: "figures", words: "big number", size: [3, 4], limits: true },
  meter: { draws: "figures", words: "meters", size: [4, 6], limits: true, most: true, scale: "straight" },
  dial: { draws: "figures", words: "dial", size: [3, 5], limits: true, most: true, scale: "round" },
  table: { draws: "table", words: "table", size: [6, 6], limits: true },
  top: { draws: "figures", words: "top list", size: [4, 6], limits: true, most: true },
  states: { draws: "time", words: "states over time", size: [6, 5], limits: true, states: true },
  events: { draws: "events", words: "events", size: [6, 6], alonePx: 420 },
  note: { draws: "text", words: "note", size: [4, 4], alonePx: 260 },
  energy: { draws: "plan", words: "energy and its cost", size: [4, 6], alonePx: 320 },
  cost: { draws: "plan", words: "the month's cost and its budget", size: [4, 5], alonePx: 220 },
  space: { draws: "plan", words: "what fills, and when", size: [4, 6], alonePx: 360 },
  fit: { draws: "plan", words: "what would fit", size: [4, 5], alonePx: 220 },
  month: { draws: "plan", words: "the month in sentences", size: [4, 6], alonePx: 320 },
};
export const tileKindNames = Object.keys(tileKinds) as TileKind[];

/** Whether a kind draws a reading or a table. */
export const drawsReading = (kind: TileKind): kind is ReadingTileKind =>
  !["events", "text", "plan"].includes(tileKinds[kind].draws);
/** Whether a kind reads for itself, without sentences of its own. */
export const readsItself = (kind: TileKind): boolean => ["events", "plan"].includes(tileKinds[kind].draws);
/** Whether a kind shows single figures, of which one must be chosen. */
export const showsFigures = (kind: TileKind): boolean => tileKinds[kind].draws === "figures";
/** Whether a kind draws values over time. */
export const drawsTime = (kind: TileKind): boolean => tileKinds[kind].draws === "time";
