import type { Sentence } from "./document.ts";
import type { TaggedValues } from "./combine.ts";
import type { Values } from "./steps.ts";

/** The tag of the one line that is all those that were not kept; its value says how many they are. */
export const restTag = "the rest";

/**
 * Which lines are kept: so many of the highest or lowest by their rank, those without one left out. Where the rest is
 * asked for, all others follow as one line, added up step by step; a step that none of them knows stays unknown.
 */
export function keptLines(
  lines: readonly TaggedValues[],
  keep: NonNullable<Sentence["keep"]>,
  rankOf: (line: TaggedValues) => number | null,
): readonly TaggedValues[] {
  const ranked = lines.map((line) => ({ line, rank: rankOf(line) })).filter(({ rank }) => rank !== null);
  ranked.sort((a, b) => (keep.lowest === undefined ? -1 : 1) * ((a.rank as number) - (b.rank as number)));
  const most = keep.highest ?? keep.lowest ?? ranked.length;
  const shown = ranked.slice(0, most).map(({ line }) => line);
  const others = ranked.slice(most).map(({ line }) => line);
  return keep.rest && others.length > 0 ? [...shown, together(others)] : shown;
}

function together(lines: readonly TaggedValues[]): TaggedValues {
  const values: Values = new Float64Array(lines[0]?.values.length ?? 0).fill(Number.NaN);
  let toldUntilMs = Number.POSITIVE_INFINITY;
  for (const line of lines) {
    toldUntilMs = Math.min(toldUntilMs, line.toldUntilMs ?? Number.POSITIVE_INFINITY);
    for (let i = 0; i < values.length; i++) {
      const v = line.values[i];
      if (Number.isNaN(v)) continue;
      values[i] = Number.isNaN(values[i]) ? v : values[i] + v;
    }
  }
  return {
    tags: { [restTag]: lines.length === 1 ? "1 other" : `${lines.length} others` },
    values,
    toldUntilMs,
  };
}
