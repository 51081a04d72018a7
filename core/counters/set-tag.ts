/** Sets a tag. Plain assignment sets a prototype where the tag is called `__proto__`, and the tag is lost. */
export function setTag(tags: Record<string, string>, tag: string, value: string): void {
  if (tag === "__proto__")
    Object.defineProperty(tags, tag, { value, enumerable: true, writable: true, configurable: true });
  else tags[tag] = value;
}

/**
 * The value of a tag; undefined where it is not among them. Every object answers to `constructor` and the like, which
 * are no tags.
 */
export function tagOf(tags: Readonly<Record<string, string>>, tag: string): string | undefined {
  return Object.hasOwn(tags, tag) ? tags[tag] : undefined;
}
