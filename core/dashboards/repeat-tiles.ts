import { settled } from "./arrange-tiles.ts";
import { gridColumns, type Tile } from "./dashboard.ts";
import { mostRepeats, type Picker, type Picks } from "./pickers.ts";

/** A tile as it is shown: of one picked value alone where it repeats. */
export interface ShownTile {
  readonly tile: Tile;
  /** The picks that hold for it. */
  readonly picks: Picks;
}

/**
 * Tiles as they are shown: those that repeat stand once for each picked value, beside one another and then below;
 * others give way downwards. `choices` are a picker's values.
 */
export function shownTiles(
  tiles: readonly Tile[],
  pickers: readonly Picker[],
  picks: Picks,
  choices: (picker: Picker) => readonly string[],
): readonly ShownTile[] {
  const picksOf = new Map<string, Picks>();
  const made = tiles.flatMap((tile): readonly Tile[] => {
    const picker = pickers.find(({ id }) => id === tile.repeat);
    const chosen = picker ? (picks[picker.id] ?? []) : [];
    const values = picker ? (chosen.length > 0 ? chosen : choices(picker)).slice(0, mostRepeats) : [];
    if (!picker || values.length === 0) return [tile];
    const { x, y, width, height } = tile.place;
    const beside = Math.max(1, Math.floor((gridColumns - x) / width));
    return values.map((value, i) => {
      const id = i === 0 ? tile.id : `${tile.id}~${i}`;
      picksOf.set(id, { ...picks, [picker.id]: [value] });
      return {
        ...tile,
        id,
        title: [tile.title, value].filter(Boolean).join(", "),
        place: { x: x + (i % beside) * width, y: y + Math.floor(i / beside) * height, width, height },
      };
    });
  });
  const placed = made.length === tiles.length ? made : settled(made);
  return placed.map((tile) => ({ tile, picks: picksOf.get(tile.id) ?? picks }));
}
