import type { Buckets, ExponentialPoint } from "./otlp-messages.ts";

/**
 * Buckets that one histogram may have on either side of zero: twice what senders keep by default. More, and it is read
 * at a coarser scale.
 */
const mostBuckets = 320;
const finestScale = 20;
const coarsestScale = -11;

/** Upper bounds, ascending, each with what was counted between it and the one before. */
export type BoundCounts = readonly (readonly [upTo: number, count: number])[];

/**
 * The bounds of one exponential histogram, from request to request. Bucket i of scale s holds what lies above 2^(i /
 * 2^s), up to 2^((i + 1) / 2^s) (OpenTelemetry metrics
 * data model, "Exponential Buckets"). Both ends of a bucket become bounds, so that a quantile is off by no more than
 * the bucket's width: 2^(2^-s) − 1 of its value. A
 * bound that was there once stays, so that its series goes on; where the sender merges its buckets to a coarser scale,
 * those that are left stay.
 */
export class ExponentialBounds {
  #scale = finestScale;
  readonly #positive = new Set<number>();
  readonly #negative = new Set<number>();
  #zero: number | undefined;

  /** Undefined where the scale is none. */
  read({ scale = 0, zeroCount, zeroThreshold = 0, positive, negative }: ExponentialPoint): BoundCounts | undefined {
    if (!Number.isInteger(scale) || scale < -40 || scale > 40) return undefined;
    this.#coarsen(Math.max(coarsestScale, Math.min(scale, finestScale)));
    const up = this.#merged(positive, scale);
    const down = this.#merged(negative, scale);
    for (;;) {
      note(this.#positive, up);
      note(this.#negative, down);
      if (Math.max(this.#positive.size, this.#negative.size) <= mostBuckets || this.#scale <= coarsestScale) break;
      this.#coarsen(this.#scale - 1);
      halve(up);
      halve(down);
    }
    if (Number(zeroCount ?? 0) > 0) this.#zero = zeroThreshold;
    const counts: (readonly [number, number])[] = [];
    // Bucket i of the negative side is from −base^(i + 1) up to −base^i.
    for (const bound of [...this.#negative].sort((a, b) => b - a))
      counts.push([-this.#bound(bound), down.get(bound) ?? 0]);
    if (this.#zero !== undefined) counts.push([this.#zero, Number(zeroCount ?? 0)]);
    for (const bound of [...this.#positive].sort((a, b) => a - b))
      counts.push([this.#bound(bound), up.get(bound - 1) ?? 0]);
    let beyond = 0;
    const finite = counts.filter(([upTo, count]) => {
      if (!Number.isFinite(upTo)) beyond += count;
      return Number.isFinite(upTo);
    });
    return [...finite, [Number.POSITIVE_INFINITY, beyond]];
  }

  /** Where bucket `i` begins. Whole powers of two are exact. */
  #bound(i: number): number {
    return 2 ** (i * 2 ** -this.#scale);
  }

  #merged(buckets: Buckets | undefined, scale: number): Map<number, number> {
    const counts = new Map<number, number>();
    const width = 2 ** Math.max(0, scale - this.#scale);
    const spread = 2 ** Math.max(0, this.#scale - scale);
    (buckets?.bucketCounts ?? []).forEach((count, k) => {
      const n = Number(count);
      if (!(n > 0)) return;
      const i = Math.floor(((buckets?.offset ?? 0) + k) / width) * spread;
      counts.set(i, (counts.get(i) ?? 0) + n);
    });
    return counts;
  }

  /** Keeps the bounds that a coarser scale has as well. */
  #coarsen(scale: number): void {
    for (; this.#scale > scale; this.#scale--) {
      for (const bounds of [this.#positive, this.#negative]) {
        const kept = [...bounds].filter((i) => i % 2 === 0).map((i) => i / 2);
        bounds.clear();
        for (const i of kept) bounds.add(i);
      }
    }
  }
}

function note(bounds: Set<number>, counts: ReadonlyMap<number, number>): void {
  for (const i of counts.keys()) bounds.add(i).add(i + 1);
}

function halve(counts: Map<number, number>): void {
  const all = [...counts];
  counts.clear();
  for (const [i, n] of all) counts.set(Math.floor(i / 2), (counts.get(Math.floor(i / 2)) ?? 0) + n);
}
