import type { ReadingDocument } from "../reading/document.ts";

/** The form of the files that dashboards are kept and exchanged in (docs/dashboard.schema.json); `version` grows when an older reader would misread one. */
export const dashboardFormat = "nubrel dashboard";
export const dashboardVersion = 1;

/** Tiles lie on this many columns. */
export const gridColumns = 12;

/** How a tile is drawn. */
export const tileKinds = ["lines", "stacked", "bars", "horizon", "heat", "number", "table", "top", "events", "note"] as const;
export type TileKind = (typeof tileKinds)[number];

/** In columns and rows, from the upper left corner. */
export interface TilePlace {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface Tile {
  /** Unique in its dashboard. */
  readonly id: string;
  readonly title: string;
  readonly description?: string;
  readonly kind: TileKind;
  readonly place: TilePlace;
  /** What is drawn; events and notes have none. The window is the rail's. */
  readonly reading?: Omit<ReadingDocument, "window">;
  /** Of a note. */
  readonly text?: string;
}

export interface Dashboard {
  readonly format: typeof dashboardFormat;
  readonly version: number;
  readonly title: string;
  readonly description?: string;
  readonly tags?: readonly string[];
  /** The window that a visitor sees first; a visitor's own changes do not change it. */
  readonly start?: { readonly lastSeconds: number; readonly everySeconds: number };
  readonly tiles: readonly Tile[];
}

export function emptyDashboard(title: string): Dashboard {
  return { format: dashboardFormat, version: dashboardVersion, title, tiles: [] };
}

/** Whether a kind draws a reading. */
export const drawsReading = (kind: TileKind): boolean => kind !== "events" && kind !== "note";
