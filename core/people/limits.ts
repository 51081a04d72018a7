import type { Limits } from "./roles.ts";

/** A value of a tag, as one of what can be chosen. */
export interface TagValue {
  readonly tag: string;
  readonly value: string;
}

/** Limits with a part of them chosen anew; nothing chosen takes the part away. */
export function withPart<Name extends keyof Limits>(
  limits: Limits,
  name: Name,
  chosen: NonNullable<Limits[Name]>,
): Limits {
  const { [name]: _, ...rest } = limits;
  return chosen.length > 0 ? { ...rest, [name]: chosen } : rest;
}

/** The values that limits name, one by one. */
export const tagValuesOf = ({ tags = [] }: Limits): readonly TagValue[] =>
  tags.flatMap(({ tag, is }) => is.map((value) => ({ tag, value })));

/** Values put together by their tags, as limits say them. */
export function tagsOfValues(values: readonly TagValue[]): NonNullable<Limits["tags"]> {
  const found = new Map<string, string[]>();
  for (const { tag, value } of values) found.set(tag, [...(found.get(tag) ?? []), value]);
  return [...found].map(([tag, is]) => ({ tag, is }));
}
