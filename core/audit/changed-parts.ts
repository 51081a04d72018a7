import equal from "fast-deep-equal";

/** What a change left otherwise, by name; what is only on one side stands there alone. */
export interface ChangedParts {
  readonly before: unknown;
  readonly after: unknown;
}

type Fields = Readonly<Record<string, unknown>>;

const isFields = (value: unknown): value is Fields =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** The parts of two documents that differ, named as they are; lists are told whole. */
export function changedParts(before: unknown, after: unknown): ChangedParts {
  if (!isFields(before) || !isFields(after)) return { before, after };
  const sides: { before: [string, unknown][]; after: [string, unknown][] } = { before: [], after: [] };
  for (const name of new Set([...Object.keys(before), ...Object.keys(after)])) {
    if (equal(before[name], after[name])) continue;
    const parts = changedParts(before[name], after[name]);
    if (Object.hasOwn(before, name)) sides.before.push([name, parts.before]);
    if (Object.hasOwn(after, name)) sides.after.push([name, parts.after]);
  }
  return { before: Object.fromEntries(sides.before), after: Object.fromEntries(sides.after) };
}
