/**
 * Which part of a device tells of which counters, learned as it is asked for everything: a part that has nothing of
 * what is wanted need not be asked.
 */
export class WhichTells {
  readonly #told = new Map<string, Set<string>>();

  note(part: string, counter: string): void {
    const told = this.#told.get(part);
    if (told) told.add(counter);
    else this.#told.set(part, new Set([counter]));
  }

  /** A part was asked for everything: where it told of nothing, it has nothing. */
  asked(part: string): void {
    if (!this.#told.has(part)) this.#told.set(part, new Set());
  }

  /** Whether a part has told of anything yet. */
  has(part: string): boolean {
    return (this.#told.get(part)?.size ?? 0) > 0;
  }

  /** Whether a part may tell of something wanted: also where it has never been asked for everything. Without `wanted` all parts do. */
  may(part: string, wanted: ReadonlySet<string> | undefined): boolean {
    const told = this.#told.get(part);
    if (!wanted || !told) return true;
    for (const counter of told) if (wanted.has(counter)) return true;
    return false;
  }
}
