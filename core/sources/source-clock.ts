/** Answers that tell what is usual of a source just now. */
const looksAt = 20;
/** By measuring alone a source is waited for no longer than this; more must be said by a person. */
const mostMeasuredLateMs = 300_000;
/** A clock that is off by more is warned of. */
export const mostOffMs = 10_000;

/**
 * How a source's clock and its answers stand to ours, by how late the newest sample of each answer came. Its clock is
 * off by what is late at least: the quickest way is the one that tells
 * clocks apart (as in RFC 5905 §10, the clock filter). It is late, for those who wait for it, by what all but the
 * slowest tenth of its answers keep to.
 */
export class SourceClock {
  readonly #lates: number[] = [];

  /** Notes an answer: the time of its newest sample by the source's clock, and when it came by ours. */
  note(newestMs: number, nowMs: number): void {
    this.#lates.push(nowMs - newestMs);
    if (this.#lates.length > looksAt) this.#lates.shift();
  }

  /** How far its clock is behind ours, ms (ahead where it is negative); undefined before three answers. */
  get behindMs(): number | undefined {
    return this.#lates.length < 3 ? undefined : Math.min(...this.#lates);
  }

  /** How late its samples come, ms: 0 and more. */
  get lateMs(): number {
    const sorted = [...this.#lates].sort((a, b) => a - b);
    return Math.min(mostMeasuredLateMs, Math.max(0, sorted[Math.ceil(sorted.length * 0.9) - 1] ?? 0));
  }
}
