import type { ReadingDocument } from "../reading/document.ts";
import type { Table } from "../tables/table.ts";
import type { TileLimit } from "./limits.ts";
import type { MeterLook } from "./meters.ts";
import type { Picker } from "./pickers.ts";
import type { ShownValue } from "./shown-figures.ts";
import type { StateWord } from "./states.ts";
import type { TileKind } from "./tile-kinds.ts";

/**
 * The form of the files that dashboards are kept and exchanged in (dashboard-form.ts; docs/dashboard.schema.json); `version` grows when an
 * older reader would misread one.
 */
export const dashboardFormat = "nubrel dashboard";
export const dashboardVersion = 1;

/** Tiles lie on this many columns. */
export const gridColumns = 12;

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
  /** What is drawn, or what a note's live figures are of. The window is the rail's. */
  readonly reading?: Omit<ReadingDocument, "window">;
  /** A table of one's own that is drawn in the place of a reading. */
  readonly table?: Table;
  /** Which value single figures show; the last of a line, or every row of a table, unless said. */
  readonly shows?: ShownValue;
  /** How many figures are shown. */
  readonly most?: number;
  /** Of meters and dials. */
  readonly meter?: MeterLook;
  /** In the unit of what is drawn. */
  readonly limits?: readonly TileLimit[];
  /** Words for values, of a state timeline. */
  readonly states?: readonly StateWord[];
  /** The id of the picker for each of whose picked values the tile stands once. */
  readonly repeat?: string;
  /** Ids of pickers that do not concern it. */
  readonly ignores?: readonly string[];
  /** Of a note: Markdown. */
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
  /** Each concerns those below it: machines of the picked site. */
  readonly pickers?: readonly Picker[];
  readonly tiles: readonly Tile[];
}

export function emptyDashboard(title: string): Dashboard {
  return { format: dashboardFormat, version: dashboardVersion, title, tiles: [] };
}
