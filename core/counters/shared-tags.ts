import type { Tags } from "./counter.ts";

/** What is remembered of texts and of tags: sources tell of their series together, so that the newest suffice. */
const mostRemembered = 20_000;

/**
 * Gives equal texts, and equal tags, as one object in memory: a hundred thousand series have a few hundred names of
 * counters, units and machines among them, and the series of a part have the same tags.
 */
export class SharedTags {
  readonly #texts = new Map<string, string>();
  readonly #tags = new Map<string, Tags>();

  text(text: string): string {
    const known = this.#texts.get(text);
    if (known !== undefined) return known;
    if (this.#texts.size >= mostRemembered) this.#texts.clear();
    this.#texts.set(text, text);
    return text;
  }

  /** The tags of a JSON text; not to be changed, for others have them as well. */
  tags(json: string): Tags {
    const known = this.#tags.get(json);
    if (known !== undefined) return known;
    const tags = JSON.parse(json) as Record<string, string>;
    for (const name in tags) tags[name] = this.text(tags[name] as string);
    if (this.#tags.size >= mostRemembered) this.#tags.clear();
    this.#tags.set(json, Object.freeze(tags));
    return tags;
  }
}
