import { type Dashboard, gridColumns, type Tile, type TilePlace } from "./dashboard.ts";
import { tileKinds } from "./tile-kinds.ts";

const leastWidth = 2;
const leastHeight = 2;
const mostHeight = 40;

export type Side = "left" | "right" | "up" | "down";

/** With one more tile below all others, in a size that suits its kind. */
export function withTile(dashboard: Dashboard, tile: Omit<Tile, "place" | "id">): Dashboard {
  const [width, height] = tileKinds[tile.kind].size;
  return {
    ...dashboard,
    tiles: [
      ...dashboard.tiles,
      { ...tile, id: freshId(dashboard), place: { ...freePlace(dashboard.tiles, width, height), width, height } },
    ],
  };
}

export function withoutTile(dashboard: Dashboard, id: string): Dashboard {
  return { ...dashboard, tiles: dashboard.tiles.filter((tile) => tile.id !== id) };
}

/** A copy of a tile, in the first free place. */
export function copiedTile(dashboard: Dashboard, id: string): Dashboard {
  const tile = dashboard.tiles.find((one) => one.id === id);
  if (!tile) return dashboard;
  const { width, height } = tile.place;
  return {
    ...dashboard,
    tiles: [
      ...dashboard.tiles,
      { ...tile, id: freshId(dashboard), place: { ...freePlace(dashboard.tiles, width, height), width, height } },
    ],
  };
}

export function changedTile(dashboard: Dashboard, id: string, change: Partial<Omit<Tile, "id">>): Dashboard {
  return { ...dashboard, tiles: dashboard.tiles.map((tile) => (tile.id === id ? { ...tile, ...change } : tile)) };
}

/** A tile one column or row farther; what it would lie on gives way downwards. */
export function movedTile(dashboard: Dashboard, id: string, side: Side): Dashboard {
  return placed(dashboard, id, ({ x, y, ...size }) => ({
    ...size,
    x: x + (side === "right" ? 1 : side === "left" ? -1 : 0),
    y: y + (side === "down" ? 1 : side === "up" ? -1 : 0),
  }));
}

/** A tile one column or row larger ("right", "down") or smaller. */
export function resizedTile(dashboard: Dashboard, id: string, side: Side): Dashboard {
  return placed(dashboard, id, ({ width, height, ...corner }) => ({
    ...corner,
    width: width + (side === "right" ? 1 : side === "left" ? -1 : 0),
    height: height + (side === "down" ? 1 : side === "up" ? -1 : 0),
  }));
}

/** Where tiles were put by hand. */
export function withPlaces(dashboard: Dashboard, places: ReadonlyMap<string, TilePlace>): Dashboard {
  return {
    ...dashboard,
    tiles: dashboard.tiles.map((tile) => ({ ...tile, place: places.get(tile.id) ?? tile.place })),
  };
}

/** Tiles in the order in which they are read: rows from the top, each from the left. */
export function inReadingOrder(tiles: readonly Tile[]): readonly Tile[] {
  return [...tiles].sort((a, b) => a.place.y - b.place.y || a.place.x - b.place.x);
}

/** A place inside the grid. */
export function insideGrid({ x, y, width, height }: TilePlace): TilePlace {
  const w = Math.min(gridColumns, Math.max(leastWidth, width));
  return {
    x: Math.min(gridColumns - w, Math.max(0, x)),
    y: Math.max(0, y),
    width: w,
    height: Math.min(mostHeight, Math.max(leastHeight, height)),
  };
}

function placed(dashboard: Dashboard, id: string, change: (place: TilePlace) => TilePlace): Dashboard {
  const tile = dashboard.tiles.find((one) => one.id === id);
  if (!tile) return dashboard;
  const place = insideGrid(change(tile.place));
  return {
    ...dashboard,
    tiles: settled(
      dashboard.tiles.map((one) => (one.id === id ? { ...one, place } : one)),
      id,
    ),
  };
}

/**
 * No two tiles on one another: the one that was moved stays, the others give way downwards in reading order, and all
 * close up upwards.
 */
export function settled(tiles: readonly Tile[], keep?: string): readonly Tile[] {
  const first = tiles.find(({ id }) => id === keep);
  const done: Tile[] = first ? [first] : [];
  for (const tile of inReadingOrder(tiles)) {
    if (tile === first) continue;
    let { place } = tile;
    while (done.some((other) => overlap(other.place, place))) place = { ...place, y: place.y + 1 };
    done.push({ ...tile, place });
  }
  const closed: Tile[] = [];
  for (const tile of inReadingOrder(done)) {
    let { place } = tile;
    while (place.y > 0 && !closed.some((other) => overlap(other.place, { ...place, y: place.y - 1 })))
      place = { ...place, y: place.y - 1 };
    closed.push({ ...tile, place });
  }
  return tiles.map(({ id }) => closed.find((tile) => tile.id === id) as Tile);
}

function overlap(a: TilePlace, b: TilePlace): boolean {
  return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
}

/** The first place from the top left in which a tile of this size lies on no other. */
function freePlace(tiles: readonly Tile[], width: number, height: number): { readonly x: number; readonly y: number } {
  for (let y = 0; ; y++) {
    for (let x = 0; x + width <= gridColumns; x++)
      if (!tiles.some(({ place }) => overlap(place, { x, y, width, height }))) return { x, y };
  }
}

function freshId({ tiles }: Dashboard): string {
  for (let n = tiles.length + 1; ; n++) if (!tiles.some(({ id }) => id === `tile-${n}`)) return `tile-${n}`;
}
