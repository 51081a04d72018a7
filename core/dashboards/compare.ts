import type { Form } from "../forms/form.ts";
import type { Dashboard, Tile } from "./dashboard.ts";
import { dashboardForm, tileForm } from "./dashboard-form.ts";

/** The parts of a form of whose change something is said, with the words for it. */
const partsOf = (form: Form): readonly (readonly [part: string, words: string])[] =>
  Object.entries(form.properties ?? {}).flatMap(([part, { words }]) => (words === undefined ? [] : [[part, words]]));
const tileParts = partsOf(tileForm) as readonly (readonly [part: keyof Tile, words: string])[];
const documentParts = partsOf(dashboardForm) as readonly (readonly [part: keyof Dashboard, words: string])[];

/**
 * What one version of a dashboard changed against another, a sentence each, without full stops; empty where they are
 * alike.
 */
export function dashboardChanges(before: Dashboard, after: Dashboard): readonly string[] {
  const name = ({ title, id }: Tile) => `"${title || id}"`;
  const was = new Map(before.tiles.map((tile) => [tile.id, tile]));
  const is = new Map(after.tiles.map((tile) => [tile.id, tile]));
  const whole = documentParts
    .filter(([part]) => differ(before[part], after[part]))
    .map(([part, words]) =>
      part === "title" ? `the title was "${before.title}" and is "${after.title}"` : `${words} changed`,
    );
  const added = after.tiles.filter(({ id }) => !was.has(id)).map((tile) => `${name(tile)} was added`);
  const removed = before.tiles.filter(({ id }) => !is.has(id)).map((tile) => `${name(tile)} was removed`);
  const changed = after.tiles.flatMap((tile) => {
    const earlier = was.get(tile.id);
    if (!earlier || !differ(earlier, tile)) return [];
    const parts = tileParts.filter(([part]) => differ(earlier[part], tile[part])).map(([, words]) => words);
    return [
      `${name(earlier)} changed: ${parts.length > 0 ? parts.join(", ") : "something that this version does not know"}`,
    ];
  });
  return [...whole, ...added, ...removed, ...changed];
}

/** By what they say: the order of an object's fields says nothing. */
function differ(a: unknown, b: unknown): boolean {
  return canonical(a) !== canonical(b);
}

function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join()}]`;
  if (typeof value !== "object" || value === null) return JSON.stringify(value) ?? "";
  return `{${Object.entries(value)
    .filter(([, one]) => one !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, one]) => `${key}:${canonical(one)}`)
    .join()}}`;
}
